'use client';
import { useEffect, useRef, useState } from 'react';
import { EDGE_THRESHOLD_LU } from '@/core/mix';
import { parseGain, writeFrequency, writeLength, writeNumber } from '@/core/formats';
import { findStrip, type SongPart } from '@/core/song';
import type { EdgeFigures } from '@/workers/mix';
import { useDesk } from '../../window/desk/desk';
import { AXIS_HIGH_HZ, AXIS_LOW_HZ } from '../../kit/axis/scale';
import { Button, TextButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { PanelBody, PanelLine } from '../../kit/controls/panel';
import { ValueField } from '../../kit/controls/value-field';
import { endBand, type PassType } from './end-edits';
import { shadeEdge } from './edge-shade';
import { tellMixFailed, useMix } from '../../window/sound/mix';
import { useSong, useSongStore } from '../../window/song/song-store';
import { useChosenStrip } from '../../window/song/selection';
import { useCleaning } from './cleaning-store';
import { EdgeChart } from './edge-chart';
import { edgeOf, safeHz, setEnd, type Ended } from './edge-edits';
import { songOf } from '../../window/song/live-song';

const ENDS = [
  { id: 'high-pass', name: 'High-pass (cuts lows)' },
  { id: 'low-pass', name: 'Low-pass (cuts highs)' },
] as const;
const PLACES = [
  { id: 'loop', name: 'the loop' },
  { id: 'song', name: 'the whole song' },
] as const;
const THRESHOLDS_LU = { min: 0.05, max: 6 };
/** Measured again when nothing has changed for this long: a drag is not held up by it. */
const REST_MS = 120;

/** A place in the song, by its part too. */
function spotText(parts: readonly SongPart[], seconds: number): string {
  const part = parts.findLast(({ startSeconds }) => startSeconds <= seconds);
  return part ? `${writeLength(seconds)}, in ${part.name}` : writeLength(seconds);
}

/** What an end of a track takes from it, alone and in the mix, against the corner; sets it just short of what is missed. */
export function EdgePanel() {
  const desk = useDesk();
  const strip = useChosenStrip();
  const tracks = useSong((song) => song.tracks.length);
  return (
    <PanelBody aria-label="Edge">
      <h2>Edge</h2>
      {'outputId' in strip ? (
        <StripEdge key={strip.id} strip={strip} />
      ) : (
        <p>Choose a track or a group: its ends are looked at here.</p>
      )}
      {tracks > 0 && (
        <PanelLine>
          <Button
            data-hint="Proposes an end for every track; a list to look through first"
            onPress={() => useCleaning.of(desk).setOpen(true)}
          >
            Clean all ends…
          </Button>
        </PanelLine>
      )}
    </PanelBody>
  );
}

/** Follows the mix: the last figures stay in sight until the next ones are there. */
function useEdge(strip: Ended, type: PassType, thresholdLu: number, where: 'loop' | 'song'): EdgeFigures | null {
  const desk = useDesk();
  const [figures, setFigures] = useState<EdgeFigures | null>(null);
  const revision = useMix((mix) => mix.revision);
  const latest = useRef(0);
  useEffect(() => {
    const number = ++latest.current;
    const timer = setTimeout(() => {
      const now = findStrip(songOf(desk), strip.id);
      if (!now || !('outputId' in now)) return;
      edgeOf(desk, now, type, thresholdLu, where).then(
        (found) => {
          if (latest.current === number) setFigures(found);
        },
        (error: Error) => tellMixFailed(desk, 'The edge', error),
      );
    }, REST_MS);
    return () => clearTimeout(timer);
  }, [strip.id, revision, type, thresholdLu, where, desk]);
  return figures;
}

function StripEdge({ strip: track }: { strip: Ended }) {
  const desk = useDesk();
  const [type, setType] = useState<PassType>('high-pass');
  const [where, setWhere] = useState<'loop' | 'song'>('loop');
  const [thresholdLu, setThreshold] = useState(EDGE_THRESHOLD_LU);
  const parts = useSong((song) => song.parts);
  const figures = useEdge(track, type, thresholdLu, where);
  const band = endBand(track, type);
  const inMixHz = figures?.inMixHz ?? null;
  useEffect(() => {
    const isHigh = type === 'high-pass';
    shadeEdge(
      desk,
      track.id,
      inMixHz === null ? null : { lowHz: isHigh ? AXIS_LOW_HZ : inMixHz, highHz: isHigh ? inMixHz : AXIS_HIGH_HZ },
    );
    return () => shadeEdge(desk, null, null);
  }, [track.id, type, inMixHz, desk]);
  const set = (hz: number, how: string) =>
    useSongStore
      .of(desk)
      .edit(
        setEnd(songOf(desk), track, type, safeHz(hz, type), `takes ${writeNumber(thresholdLu)} LU ${how}`),
        `Set the ${type}`,
      );
  const corner = (label: string, hz: number | null, how: string) => (
    <FigureRow>
      <span>{label}</span>
      {hz === null ? (
        <i>nothing to take</i>
      ) : (
        <>
          <b data-sound>{writeFrequency(safeHz(hz, type))}</b>
          <TextButton
            aria-label={`Set it there: ${label}`}
            data-hint="Moves the filter there, or sets a new one of 18 dB per octave"
            onPress={() => set(hz, how)}
          >
            Set it there
          </TextButton>
        </>
      )}
    </FigureRow>
  );
  return (
    <>
      <PanelLine>
        <Choice label="End" value={type} options={ENDS} width={182} onChange={setType} />
      </PanelLine>
      <FigureRow>
        <span>Over</span>
        <Choice label="Edge is measured over" value={where} options={PLACES} width={140} onChange={setWhere} />
      </FigureRow>
      <FigureRow>
        <span>Missed at</span>
        <ValueField
          label="Loss that is missed"
          shown={`${writeNumber(thresholdLu)} LU`}
          parse={(text) => parseGain(text.replace(/\s*lu$/i, ''), THRESHOLDS_LU)}
          example="0.2 LU"
          onCommit={setThreshold}
          onStep={(direction) =>
            setThreshold(Math.min(6, Math.max(0.1, Math.round((thresholdLu + direction * 0.1) * 10) / 10)))
          }
        />
      </FigureRow>
      {figures ? (
        <div data-sound>
          <EdgeChart figures={figures} thresholdLu={thresholdLu} nowHz={band?.frequencyHz ?? null} />
        </div>
      ) : (
        <p>The recording is being measured …</p>
      )}
      {figures && (
        <>
          {corner('Alone', figures.aloneHz, 'alone')}
          {corner('In the mix', figures.inMixHz, 'in the mix')}
          {figures.spot && (
            <p data-sound>
              What limits it is at {spotText(parts, figures.spot.seconds)}: there the corner in the mix takes{' '}
              {writeNumber(figures.spot.lossLu)} LU of the track alone.
            </p>
          )}
        </>
      )}
    </>
  );
}
