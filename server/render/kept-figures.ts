import { createHash } from 'node:crypto';
import { compileSong, isHeard } from '@/core/engine';
import type { Song } from '@/core/song';
import { singleton } from '../singleton';

/** Figures that are kept: those of several songs of many tracks. */
const MOST_KEPT = 2000;
/** Bytes of them, about. */
const MOST_BYTES = 64 * 2 ** 20;
interface Kept {
  value: unknown;
  bytes: number;
}
const kept = () => singleton('kept figures', () => new Map<string, Kept>());

/** What the figures of a part of a song depend on: everything of it that is heard, and nothing else. */
export function dependencies(part: Song, ...others: unknown[]): string {
  const compiled = compileSong(part);
  const heard = compiled.tracks.filter(isHeard);
  return createHash('sha256')
    .update(JSON.stringify([{ ...compiled, tracks: heard }, ...others]))
    .digest('hex');
}

/** What is measured is kept until the part sounds otherwise. @param bytes how large it is, about */
export async function once<T>(key: string, measure: () => Promise<T>, bytes: (value: T) => number): Promise<T> {
  const all = kept();
  const known = all.get(key);
  const value = known ? (known.value as T) : await measure();
  // The one that was asked for last goes last.
  all.delete(key);
  all.set(key, { value, bytes: bytes(value) });
  let held = [...all.values()].reduce((sum, figure) => sum + figure.bytes, 0);
  for (const [oldest, { bytes: size }] of all) {
    if (all.size <= MOST_KEPT && held <= MOST_BYTES) break;
    all.delete(oldest);
    held -= size;
  }
  return value;
}
