import { findStrip, keyOf, MASTER_ID, OWN_KEY, stripChannels, type Chain, type Song } from '../song';
import { compileSong, designKernel, kernelRequests, renderMix, type MixRange, type SourceOf } from '../engine';
import { partOf } from './parts';
import { feedingStrips } from './strip-measures';

/** Levels that are counted, dB: a bin for each. */
export const COUNTED_DB = { lowest: -60, highest: 6 } as const;

/** What passes a place over a stretch. */
export interface ObservedLevels {
  /** Peaks in columns of equal length, linear. */
  peaks: Float32Array;
  /** How many samples lie at each level, from {@link COUNTED_DB} on. */
  counts: Float32Array;
}

/** What goes on at a processor. */
export interface Observed {
  before: ObservedLevels;
  after: ObservedLevels;
  /** What it listens to, where that is another strip. */
  key: ObservedLevels | null;
}

/** The strip by itself, as it is right behind some of its chain. */
export function stripUpTo(song: Song, stripId: string, chain: Chain): Song {
  const strip = findStrip(song, stripId)!;
  const changed =
    stripId === MASTER_ID
      ? { ...song, master: { ...song.master, chain, gainDb: 0 } }
      : {
          ...song,
          tracks: song.tracks.map((track) => (track.id === stripId ? { ...track, ...LEVEL, chain } : track)),
          buses: song.buses.map((bus) => (bus.id === stripId ? { ...bus, ...LEVEL, chain } : bus)),
        };
  const part = partOf(changed, stripId);
  // A mono strip in the middle reaches each side at −3.01 dB.
  return stripChannels(strip) === 1 ? { ...part, master: { ...part.master, gainDb: 10 * Math.log10(2) } } : part;
}
const LEVEL = { gainDb: 0, pan: 0, polarityInverted: false };

function levelsOf(song: Song, sourceOf: SourceOf, range: MixRange, columns: number): ObservedLevels {
  const peaks = new Float32Array(columns);
  const counts = new Float32Array(COUNTED_DB.highest - COUNTED_DB.lowest);
  const kernels = kernelRequests(song).map((request) => designKernel(request));
  const perFrame = columns / (range.endFrame - range.startFrame);
  for (const { left, right, frames, frame } of renderMix(compileSong(song), sourceOf, kernels, range))
    for (let n = 0; n < frames; n++) {
      const column = Math.min(columns - 1, Math.floor((frame + n - range.startFrame) * perFrame));
      const size = Math.max(Math.abs(left[n]), Math.abs(right[n]));
      if (size > peaks[column]) peaks[column] = size;
      const bin = Math.floor(20 * Math.log10(size)) - COUNTED_DB.lowest;
      if (bin >= 0) counts[Math.min(counts.length - 1, bin)]++;
    }
  return { peaks, counts };
}

/**
 * The levels before and after a processor of a strip over a stretch of the song, and of its key: by the engine that plays it.
 * @param columns how many values each is
 * @returns null where the strip or the processor is gone
 */
export function observeProcessor(
  song: Song,
  stripId: string,
  processorId: string,
  sourceOf: SourceOf,
  range: MixRange,
  columns: number,
): Observed | null {
  const chain = findStrip(song, stripId)?.chain ?? [];
  const at = chain.findIndex(({ id }) => id === processorId);
  if (at < 0) return null;
  const key = keyOf(chain[at]);
  const other = key && key.stripId !== OWN_KEY ? findStrip(song, key.stripId) : undefined;
  return {
    before: levelsOf(stripUpTo(song, stripId, chain.slice(0, at)), sourceOf, range, columns),
    after: levelsOf(stripUpTo(song, stripId, chain.slice(0, at + 1)), sourceOf, range, columns),
    key: other ? levelsOf(stripUpTo(song, other.id, other.chain), sourceOf, range, columns) : null,
  };
}

/** The tracks whose recordings are needed for that: all that may reach the strip or its keys. */
export function observedTracks(song: Song, stripId: string): string[] {
  const feeding = feedingStrips(song, stripId);
  return song.tracks.filter(({ id }) => feeding.has(id)).map(({ id }) => id);
}
