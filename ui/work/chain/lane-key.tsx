'use client';
import { memo } from 'react';
import styled from 'styled-components';
import { useShallow } from 'zustand/react/shallow';
import { writeFrequency } from '@/core/formats';
import {
  findStrip,
  FREQUENCY_RANGE_HZ,
  isRange,
  keyOf,
  OWN_KEY,
  type Edit,
  type Key,
  type KeyChanges,
  type Song,
} from '@/core/song';
import { useAxis } from '../../kit/axis/axis-context';
import { arrowDirection, rangeKeyHz, stepHz, stepSize, tidyHz } from '../../kit/gestures/steps';
import { setBand } from '../../window/song/band-edits';
import { useDesk } from '../../window/desk/desk';
import { dragEdit } from '../../window/song/edit-drag';
import { settledSong, songOf } from '../../window/song/live-song';
import { setProcessor } from '../../window/song/processor-edits';
import { processorOnBench, useSelection } from '../../window/song/selection';
import { useSong, useSongStore } from '../../window/song/song-store';
import { isDeleteKey } from '../../kit/gestures/plain-key';

interface Chosen {
  stripId: string;
  processorId: string | null;
  bandId: string | null;
}

/** What is on the bench listens to, and how that is set; null where it listens to nothing. */
function listening(
  song: Song,
  { stripId, processorId, bandId }: Chosen,
): { key: Key; set: (changes: KeyChanges) => Edit | null } | null {
  const strip = findStrip(song, stripId);
  const processor = strip && processorOnBench(strip, processorId);
  if (!processor) return null;
  if (processor.kind === 'equalizer') {
    const band = processor.bands.find(({ id }) => id === bandId);
    const givesWay = band?.givesWay;
    return givesWay
      ? { key: givesWay.key, set: (changes) => setBand(song, stripId, band.id, { givesWay: { key: changes } }) }
      : null;
  }
  const key = keyOf(processor);
  return key ? { key, set: (changes) => setProcessor(stripId, processor, { key: changes }) } : null;
}

const ENDS = { lowHz: 'Lower', highHz: 'Upper' } as const;
type End = keyof typeof ENDS;
/** An end that is dragged so near to the side of the lane is open, pixels. */
const OPEN_AT = 22;
/** An open end stands beside the ends of the track, which are dragged in from the sides of its lane, pixels. */
const INSET = 20;

/** The range that the processor or band on the bench listens to, in the lane of the strip that it listens to: two posts, dragged; at the side of the lane they are open. */
export const LaneKey = memo(function LaneKey({ stripId, height }: { stripId: string; height: number }) {
  const desk = useDesk();
  const axis = useAxis();
  const chosen = useSelection(useShallow(({ stripId, processorId, bandId }) => ({ stripId, processorId, bandId })));
  const key = useSong((song) => listening(song, chosen)?.key ?? null);
  if (!key || (key.stripId === OWN_KEY ? chosen.stripId : key.stripId) !== stripId) return null;
  const moved = (song: Song, end: End, hz: number | null): Edit | null => {
    const now = listening(song, chosen);
    if (!now) return null;
    const next = { ...now.key, [end]: hz };
    return isRange(next) ? now.set({ [end]: hz }) : null;
  };
  const placeOf = (end: End) => (key[end] === null ? (end === 'lowHz' ? INSET : axis.width - INSET) : axis.x(key[end]));
  return (Object.keys(ENDS) as End[]).map((end) => {
    const open = end === 'lowHz' ? FREQUENCY_RANGE_HZ.min : FREQUENCY_RANGE_HZ.max;
    const step = (event: React.KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey) return;
      const arrow = arrowDirection(event);
      const typed = rangeKeyHz(event, key[end] ?? open);
      const { edit, editByKey } = useSongStore.of(desk);
      if (arrow?.axis === 'x') {
        const from = key[end] ?? (end === 'lowHz' ? axis.hz(0) : axis.hz(axis.width));
        const hz = stepHz(from, arrow.direction, stepSize(event));
        editByKey(moved(songOf(desk), end, hz), 'Range of the key', `key/${end}`);
      } else if (typed !== null) edit(moved(songOf(desk), end, typed), 'Range of the key');
      else if (isDeleteKey(event)) edit(moved(songOf(desk), end, null), 'Range of the key');
      else return;
      event.preventDefault();
      event.stopPropagation();
    };
    return (
      <Post
        key={end}
        role="slider"
        tabIndex={0}
        aria-label={`${ENDS[end]} end of what is listened to`}
        aria-valuemin={FREQUENCY_RANGE_HZ.min}
        aria-valuemax={FREQUENCY_RANGE_HZ.max}
        aria-valuenow={key[end] ?? open}
        aria-valuetext={key[end] === null ? 'open' : writeFrequency(key[end])}
        data-hint={`${ENDS[end]} end of what is listened to${key[end] === null ? ', open' : `: ${writeFrequency(key[end])}`} · drag it, or press ← → · Delete opens it · K held hears it`}
        style={{ left: placeOf(end) - REACH, height }}
        onKeyDown={step}
        onPointerDown={(event) => {
          const from = placeOf(end);
          dragEdit(desk, event, 'Range of the key', ({ dx }) => {
            const x = Math.min(axis.width, Math.max(0, from + dx));
            const isOpen = end === 'lowHz' ? x < OPEN_AT : x > axis.width - OPEN_AT;
            return moved(settledSong(desk), end, isOpen ? null : tidyHz(axis.hz(x)));
          });
        }}
      />
    );
  });
});

const REACH = 8;
const Post = styled.div`
  position: absolute;
  top: 0;
  width: ${2 * REACH}px;
  z-index: 1;
  cursor: ew-resize;
  touch-action: none;
  background: radial-gradient(circle at center, var(--ink) 1.1px, transparent 1.4px) center / 16px 5px repeat-y;
`;
