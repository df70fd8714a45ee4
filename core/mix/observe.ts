import { findStrip, keyOf, MASTER_ID, OWN_KEY, stripChannels, type Chain, type Song } from '../song';
import { compileSong, songKernels, renderMix, type MixRange, type SourceOf } from '../engine';
import { crossSpectrum } from '../measure';
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
  /** Of a clipper: what it adds by octaves, beside what comes out of it in all, dB. */
  added: { hz: number; db: number }[] | null;
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
  const kernels = songKernels(song);
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

/** So much of a stretch is looked at for what is added. */
const ADDED_SECONDS = 6;
/** What is so far below the strongest bin of a sound is what its frames leak. */
const LEAKS = 1e-9;
const OCTAVES_HZ = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];

/** What is in the one sound and has nothing in common with the other, by octaves, beside all of it: the incoherent share of its power. */
function addedBy(before: Song, after: Song, sourceOf: SourceOf, range: MixRange): Observed['added'] {
  const { rateHz } = after;
  const part = { ...range, endFrame: Math.min(range.endFrame, range.startFrame + ADDED_SECONDS * rateHz) };
  const [a, b] = [before, after].map((song) => {
    const samples = new Float64Array(part.endFrame - part.startFrame);
    const kernels = songKernels(song);
    for (const { left, right, frames, frame } of renderMix(compileSong(song), sourceOf, kernels, part))
      for (let n = 0; n < frames; n++) samples[frame + n - part.startFrame] = (left[n] + right[n]) / 2;
    return samples;
  });
  const cross = crossSpectrum(a, b, rateHz);
  const whole = cross.second.reduce((sum, power) => sum + power, 0);
  if (!(whole > 0)) return null;
  const least = LEAKS * Math.max(...cross.first);
  const strange = cross.second.map((power, k) => {
    const both = cross.first[k] * power;
    const shared = cross.first[k] > least ? (cross.real[k] ** 2 + cross.imaginary[k] ** 2) / both : 0;
    return power * Math.max(0, 1 - shared);
  });
  return OCTAVES_HZ.filter((hz) => hz * Math.SQRT2 < rateHz / 2).map((hz) => {
    const [first, last] = [hz / Math.SQRT2, hz * Math.SQRT2].map((edge) => Math.round(edge / cross.binHz));
    const power = strange.subarray(first, last).reduce((sum, bin) => sum + bin, 0);
    return { hz, db: 10 * Math.log10(Math.max(1e-12, power / whole)) };
  });
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
  const keyStrip = key && key.stripId !== OWN_KEY ? findStrip(song, key.stripId) : undefined;
  const [before, after] = [at, at + 1].map((length) => stripUpTo(song, stripId, chain.slice(0, length)));
  return {
    before: levelsOf(before, sourceOf, range, columns),
    after: levelsOf(after, sourceOf, range, columns),
    added: chain[at].kind === 'clipper' ? addedBy(before, after, sourceOf, range) : null,
    key: keyStrip ? levelsOf(stripUpTo(song, keyStrip.id, keyStrip.chain), sourceOf, range, columns) : null,
  };
}

/** The tracks whose recordings are needed for that: all that may reach the strip or its keys. */
export function observedTracks(song: Song, stripId: string): string[] {
  const feeding = feedingStrips(song, stripId);
  return song.tracks.filter(({ id }) => feeding.has(id)).map(({ id }) => id);
}
