'use client';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { memo, useCallback, useEffect, useRef, type ReactNode } from 'react';
import { FocusScope, useFocusManager } from 'react-aria';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import { parseGain, writeGain, writeNumber } from '@/core/formats';
import { compileSong } from '@/core/engine';
import { toDb } from '@/core/measure';
import { dropGroup, dropTrack, FADER_RANGE_DB, type RegisterRow } from '@/core/song';
import { type Desk, useDesk } from '../../window/desk/desk';
import { LaneToggle } from '../../kit/controls/button';
import { ValueField } from '../../kit/controls/value-field';
import { dragEdit } from '../../window/song/edit-drag';
import { arrowDirection, stepDb } from '../../kit/gestures/steps';
import { useKin } from '../../work/alignment/kin-line';
import { FrozenSign } from '../../work/freeze/frozen-sign';
import { soloPair } from '../../work/company/solo';
import { useFrames, isLookFrame } from '../../kit/frames/use-frames';
import { useMix } from '../../window/sound/mix';
import { setStrips, stepStrips } from '../../window/song/strip-edits';
import { stripName, useSelection, useStripFacts, useTogether } from '../../window/song/selection';
import { useSong } from '../../window/song/song-store';
import { rowsNow } from '../../work/tracks/rows';
import { useFolds } from '../../window/view/folds';
import { useWholeRegister } from '../../window/view/whole-register';
import { audioState } from '../../window/sound/audio-state';
import { settledSong, songOf } from '../../window/song/live-song';

const METER_RANGE_DB = 60;

/** Heads that are lower than this have a name, and nothing else: keys and the side do the rest. */
const LOW_HEAD = 24;
/** Its meter stands beside its name, not under it. */
const LOW_METER = '34%';
const lowFontSize = (height: number) => Math.min(12, height - 0.5);
const LOW_HINT = 'Double-click shows the track on the bench · W shows the bench again';

interface LaneHeadProps {
  stripId: string;
  kind: RegisterRow['kind'];
  depth: number;
  isFolded: boolean;
  isChosen: boolean;
  /** True where Tab reaches its name; its other controls are reached from there by ← and →. */
  isReached: boolean;
  trackIndex: number | null;
  height: number;
}

const HINTS: Record<RegisterRow['kind'], string> = {
  track:
    'Drag to move the track, also into a group · Ctrl-click or Shift-click takes more tracks in, to set them together',
  bus: 'A group: its tracks run through it · drag it onto a group to put it in · Ctrl-click or Shift-click takes more lanes in',
  master: '↑ ↓ choose the track above and below',
};

function choose(desk: Desk, event: { ctrlKey: boolean; metaKey: boolean; shiftKey: boolean }, stripId: string): void {
  const { chooseStrip, toggleStrip, extendTo } = useSelection.of(desk);
  if (event.ctrlKey || event.metaKey) toggleStrip(stripId);
  else if (event.shiftKey)
    extendTo(
      stripId,
      rowsNow(desk).map(({ id }) => id),
    );
  else chooseStrip(stripId);
}

/** What the meter of a lane shows, linear. */
function peakOf(desk: Desk, kind: RegisterRow['kind'], stripId: string, trackIndex: number | null): number {
  const state = audioState(desk);
  if (!state) return 0;
  if (kind === 'master') return state.masterPeak;
  if (kind === 'track') return trackIndex === null ? 0 : state.trackPeak(trackIndex);
  const bus = compileSong(songOf(desk)).buses.findIndex(({ id }) => id === stripId);
  return bus < 0 ? 0 : state.busPeak(bus);
}

/** The head of a lane: colour, name, mute, solo, fader; the line below it is its level. */
export const LaneHead = memo(function LaneHead({
  stripId,
  kind,
  depth,
  isFolded,
  isChosen,
  isReached,
  trackIndex,
  height,
}: LaneHeadProps) {
  const desk = useDesk();
  const strip = useStripFacts(stripId);
  const together = useTogether(stripId);
  const meter = useRef<HTMLDivElement>(null);
  const shown = useRef('');
  useFrames(
    useCallback(() => {
      if (!isLookFrame()) return;
      if (!meter.current) return;
      const peak = peakOf(desk, kind, stripId, trackIndex);
      const share = Math.min(1, Math.max(0, 1 + toDb(peak) / METER_RANGE_DB));
      const size = `${Math.round(100 * share)}% 100%`;
      if (shown.current === size) return;
      shown.current = size;
      // Painted, not scaled: transforms of so many meters would be so many layers to the browser.
      meter.current.style.backgroundSize = size;
    }, [desk, kind, stripId, trackIndex]),
  );

  const nameButton = useRef<HTMLButtonElement>(null);
  // Where the keyboard is in the list, it goes where the choice goes.
  useEffect(() => {
    const isInList = Boolean(document.activeElement?.closest('[data-lane-head]'));
    if (isChosen && isInList) nameButton.current?.focus({ preventScroll: true });
  }, [isChosen]);

  // A return has nothing to fold.
  const isGroup = useSong(
    ({ tracks, buses }) => kind === 'bus' && [...tracks, ...buses].some(({ outputId }) => outputId === stripId),
  );
  const name = stripName(strip);
  const isLow = height < LOW_HEAD;
  return (
    <HeadRow
      style={{
        paddingLeft: 8 + 10 * Math.min(3, depth),
        ...(isLow && { paddingRight: LOW_METER, fontSize: lowFontSize(height) }),
      }}
    >
      <Swatch data-ink="" style={{ background: strip.ink === undefined ? 'var(--soft)' : `var(--ink-${strip.ink})` }} />
      {isGroup && !isLow && (
        <Fold
          type="button"
          tabIndex={-1}
          aria-label={isFolded ? `Show the tracks of ${name}` : `Fold ${name}`}
          aria-expanded={!isFolded}
          data-hint="Shows or hides the tracks of this group"
          onClick={() => useFolds.of(desk).toggle(stripId)}
        >
          {isFolded ? <ChevronRight size={13} aria-hidden /> : <ChevronDown size={13} aria-hidden />}
        </Fold>
      )}
      <Name
        ref={nameButton}
        type="button"
        tabIndex={isReached ? 0 : -1}
        $isGroup={kind === 'bus'}
        title={name}
        data-hint={isLow ? LOW_HINT : HINTS[kind]}
        data-muted={(isLow && strip.muted) || undefined}
        data-soloed={(isLow && strip.soloed) || undefined}
        onClick={(event) => choose(desk, event, strip.id)}
        onDoubleClick={() => isLow && useWholeRegister.of(desk).toggle()}
        onPointerDown={(event) => {
          if (kind === 'master') return;
          const rows = rowsNow(desk);
          const at = rows.findIndex(({ id }) => id === strip.id);
          dragEdit(desk, event, kind === 'track' ? 'Move the track' : 'Move the group', ({ dy }) => {
            const onto = rows[Math.min(rows.length - 1, Math.max(0, at + Math.round(dy / height)))];
            const drop = kind === 'track' ? dropTrack : dropGroup;
            return drop(settledSong(desk), strip.id, onto);
          });
        }}
      >
        {name}
      </Name>
      {kind === 'track' && !isLow && <FrozenSign stripId={stripId} />}
      {kind === 'track' && !isLow && <KinSign stripId={stripId} />}
      {kind !== 'master' && !isLow && (
        <>
          <LaneToggle
            excludeFromTabOrder
            aria-label={`Mute ${name}`}
            isSelected={strip.muted}
            onChange={(muted) => setStrips(desk, stripId, { muted }, 'Mute')}
            data-hint="Mute · M"
          >
            M
          </LaneToggle>
          <span
            onClickCapture={(event) => {
              if (!event.altKey) return;
              event.stopPropagation();
              soloPair(desk, stripId);
            }}
          >
            <LaneToggle
              excludeFromTabOrder
              aria-label={`Solo ${name}`}
              isSelected={strip.soloed}
              onChange={(soloed) => setStrips(desk, stripId, { soloed }, 'Solo')}
              data-hint="Solo · S · with Alt: this track and its company"
            >
              S
            </LaneToggle>
          </span>
        </>
      )}
      {kind !== 'master' && !isLow && <ClearanceFigure stripId={stripId} name={name} />}
      {!isLow && (
        <ValueField
          label={`Level of ${name}`}
          shown={writeGain(strip.gainDb).replace(' dB', '')}
          parse={(text) => parseGain(text, FADER_RANGE_DB)}
          example="−3, +2.5 dB"
          width={42}
          look="plain"
          isInList
          onCommit={(gainDb) => setStrips(desk, together, { gainDb }, 'Level')}
          onStep={(direction, size) =>
            stepStrips(
              desk,
              stripId,
              ({ gainDb }) => ({ gainDb: stepDb(gainDb, direction, size, FADER_RANGE_DB) }),
              'Level',
            )
          }
        />
      )}
      <Meter data-sound style={isLow ? { left: `calc(100% - ${LOW_METER})`, bottom: (height - 2) / 2 } : undefined}>
        <div
          ref={meter}
          data-testid={`meter-${strip.id}`}
          style={{
            color: strip.ink === undefined ? 'var(--ink)' : `var(--ink-${strip.ink})`,
            backgroundSize: '0% 100%',
          }}
        />
      </Meter>
    </HeadRow>
  );
});

/** A head whose controls are walked through by ← and →. */
function HeadRow({ style, children }: { style: React.CSSProperties; children: ReactNode }) {
  return (
    <FocusScope>
      <HeadKeys style={style}>{children}</HeadKeys>
    </FocusScope>
  );
}

function HeadKeys({ style, children }: { style: React.CSSProperties; children: ReactNode }) {
  const focus = useFocusManager();
  const onKeyDown = (event: React.KeyboardEvent<HTMLElement>) => {
    const arrow = arrowDirection(event);
    const isTyping = event.target instanceof HTMLElement && event.target.dataset.draft !== undefined;
    if (arrow?.axis !== 'x' || isTyping || event.altKey) return;
    if (arrow.direction === 1) focus?.focusNext();
    else focus?.focusPrevious();
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <Head style={style} data-lane-head="" onKeyDown={onKeyDown}>
      {children}
    </Head>
  );
}

/** Marks tracks that are one source in several recordings. */
function KinSign({ stripId }: { stripId: string }) {
  const kin = useKin(stripId);
  if (kin.length === 0) return null;
  const text = `One source with ${kin.join(', ')}`;
  return (
    <Kin title={text} data-hint={`${text}: not counted as in its way`} data-testid={`kin-${stripId}`}>
      ∥
    </Kin>
  );
}

/** How far the track stands above everything else in its claim; its room where others have such a figure, so that what stands before it is in line. */
function ClearanceFigure({ stripId, name }: { stripId: string; name: string }) {
  // As it is shown: what changes by less is not drawn again.
  const figure = useMix(
    useShallow(({ figures }) => {
      const clearance = figures.clearances[stripId];
      if (!clearance) return null;
      const { clearanceDb, onTop } = clearance;
      const side = Math.sign(Math.round(clearanceDb * 10));
      return { shown: writeNumber(clearanceDb), side, onTop: Math.round(onTop * 100) };
    }),
  );
  const isAnyClaimed = useMix((mix) => Object.values(mix.figures.clearances).some((figure) => figure !== null));
  if (!figure) return isAnyClaimed ? <Clearance aria-hidden /> : null;
  const { shown, side, onTop } = figure;
  return (
    <Clearance
      data-sound
      data-testid={`clearance-${stripId}`}
      data-below={side < 0 || undefined}
      aria-label={`Clearance of ${name}: ${shown} dB`}
      data-hint={`Clearance ${shown} dB: over everything else in its claim while it plays · on top ${onTop} % of that time`}
    >
      {side > 0 ? `+${shown}` : shown}
    </Clearance>
  );
}

const Kin = styled.abbr`
  color: var(--claim);
  font-weight: 600;
  text-decoration: none;
`;
const Clearance = styled.span`
  min-width: 30px;
  color: var(--claim);
  font-size: 12.5px;
  font-weight: 600;
  text-align: right;
  &[data-below] {
    color: var(--accent);
  }
`;
const Head = styled.div`
  position: relative;
  display: flex;
  align-items: center;
  gap: 2px;
  min-width: 0;
  padding-right: 4px;
`;
const Swatch = styled.span`
  width: 5px;
  height: 60%;
  max-height: 20px;
  border-radius: 1.5px;
`;
const Fold = styled.button`
  display: grid;
  place-items: center;
  width: 24px;
  height: 24px;
  margin-inline: -6px;
  padding: 0;
  border: 0;
  background: none;
  color: var(--soft);
  cursor: default;
`;
const Name = styled.button<{ $isGroup: boolean }>`
  flex: 1;
  min-width: 0;
  height: 100%;
  padding: 0 3px;
  overflow: hidden;
  border: 0;
  background: none;
  font-size: inherit;
  line-height: 1;
  font-weight: ${({ $isGroup }) => ($isGroup ? 600 : 500)};
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: default;
  touch-action: none;
  &[data-muted] {
    color: var(--soft);
    text-decoration: line-through;
  }
  &[data-soloed] {
    color: var(--accent);
  }
`;
const Meter = styled.div`
  position: absolute;
  right: 8px;
  bottom: 1px;
  left: 8px;
  height: 2px;
  div {
    height: 100%;
    background: linear-gradient(currentColor, currentColor) no-repeat;
  }
`;
