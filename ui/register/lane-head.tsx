'use client';
import { memo, useCallback, useRef } from 'react';
import styled from 'styled-components';
import { parseGain, writeGain } from '@/core/formats';
import { toDb } from '@/core/measure';
import { FADER_RANGE_DB, MASTER_ID } from '@/core/song';
import { LaneToggle, TextValue } from '../controls';
import { dragEdit, stepDb } from '../gestures';
import { audioState, useFrames } from '../session';
import { currentSong, stripName, useSelection, useSongStore, useStripFacts } from '../song';

const METER_RANGE_DB = 60;

interface LaneHeadProps {
  stripId: string;
  trackIndex: number | null;
  height: number;
}

/** The head of a lane: colour, name, mute, solo, fader; the line below it is its level. */
export const LaneHead = memo(function LaneHead({ stripId, trackIndex, height }: LaneHeadProps) {
  const strip = useStripFacts(stripId);
  const edit = useSongStore((store) => store.edit);
  const editByKey = useSongStore((store) => store.editByKey);
  const set = (changes: object) => ({ kind: 'strip.set', stripId: strip.id, changes }) as const;
  const meter = useRef<HTMLDivElement>(null);
  useFrames(
    useCallback(() => {
      const state = audioState();
      if (!meter.current || !state) return;
      const peak = strip.id === MASTER_ID ? state.masterPeak : trackIndex === null ? 0 : state.trackPeak(trackIndex);
      const share = Math.min(1, Math.max(0, 1 + toDb(peak) / METER_RANGE_DB));
      meter.current.style.transform = `scaleX(${share.toFixed(3)})`;
    }, [strip.id, trackIndex]),
  );

  const name = stripName(strip);
  return (
    <Head>
      <Swatch style={{ background: strip.ink === undefined ? 'var(--soft)' : `var(--ink-${strip.ink})` }} />
      <Name
        type="button"
        title={name}
        data-hint={
          trackIndex === null
            ? '↑ ↓ choose the track above and below'
            : 'Drag up or down to move the track · Alt ↑ ↓ on the keyboard'
        }
        onClick={() => useSelection.getState().chooseStrip(strip.id)}
        onPointerDown={(event) => {
          if (trackIndex === null) return;
          dragEdit(event, 'Move the track', ({ dy }) => {
            const index = Math.min(currentSong().tracks.length - 1, Math.max(0, trackIndex + Math.round(dy / height)));
            return index === trackIndex ? null : { kind: 'track.move', trackId: strip.id, index };
          });
        }}
      >
        {name}
      </Name>
      {strip.id !== MASTER_ID && (
        <>
          <LaneToggle
            aria-label={`Mute ${name}`}
            isSelected={strip.muted}
            onChange={(muted) => edit(set({ muted }), 'Mute')}
            data-hint="Mute · M"
          >
            M
          </LaneToggle>
          <LaneToggle
            aria-label={`Solo ${name}`}
            isSelected={strip.soloed}
            onChange={(soloed) => edit(set({ soloed }), 'Solo')}
            data-hint="Solo · S"
          >
            S
          </LaneToggle>
        </>
      )}
      <TextValue
        label={`Level of ${name}`}
        shown={writeGain(strip.gainDb).replace(' dB', '')}
        parse={(text) => parseGain(text, FADER_RANGE_DB)}
        example="−3, +2.5 dB"
        width={42}
        isPlain
        onCommit={(gainDb) => edit(set({ gainDb }), 'Level')}
        onStep={(direction, size) =>
          editByKey(set({ gainDb: stepDb(strip.gainDb, direction, size, FADER_RANGE_DB) }), 'Level', `${strip.id}/gain`)
        }
      />
      <Meter data-sound>
        <div
          ref={meter}
          data-testid={`meter-${strip.id}`}
          style={{
            background: strip.ink === undefined ? 'var(--ink)' : `var(--ink-${strip.ink})`,
            transform: 'scaleX(0)',
          }}
        />
      </Meter>
    </Head>
  );
});

const Head = styled.div`
  position: relative;
  display: flex;
  align-items: center;
  gap: 4px;
  min-width: 0;
  padding: 0 4px 0 8px;
`;
const Swatch = styled.span`
  width: 5px;
  height: 60%;
  max-height: 20px;
  border-radius: 1.5px;
`;
const Name = styled.button`
  flex: 1;
  min-width: 0;
  height: 100%;
  padding: 0 3px;
  overflow: hidden;
  border: 0;
  background: none;
  font-weight: 500;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: default;
  touch-action: none;
`;
const Meter = styled.div`
  position: absolute;
  right: 8px;
  bottom: 1px;
  left: 8px;
  height: 2px;
  div {
    height: 100%;
    transform-origin: left;
  }
`;
