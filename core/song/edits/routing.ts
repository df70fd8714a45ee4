import { OrvidError } from '../../errors';
import { equalizersOf, keyStripsOf, MASTER_ID, type Strip } from '../model';
import type { Song } from '../schema';
import { refused } from './refusals';

/** The strips that what leaves each strip reaches next: by its output, its sends, and as a key. */
function nextStrips(song: Song): Map<string, string[]> {
  const next = new Map<string, string[]>([[MASTER_ID, []]]);
  const strips = [...song.tracks, ...song.buses];
  for (const strip of strips) next.set(strip.id, [strip.outputId, ...strip.sends.map(({ busId }) => busId)]);
  for (const strip of [...strips, song.master]) for (const from of keyStripsOf(strip)) next.get(from)?.push(strip.id);
  return next;
}

/** All that is reached from a strip. */
function reaches(next: ReadonlyMap<string, string[]>, stripId: string, seen = new Set<string>()): Set<string> {
  for (const id of next.get(stripId) ?? []) {
    if (seen.has(id)) continue;
    seen.add(id);
    reaches(next, id, seen);
  }
  return seen;
}

/** No two strips of a song, processors of a chain or bands of an equalizer share an id. @throws OrvidError `invalid-input` */
export function checkIds(song: Song): void {
  const check = (items: readonly { id: string }[], what: string) => {
    const ids = items.map(({ id }) => id);
    const twice = ids.find((id, i) => ids.indexOf(id) !== i);
    if (twice !== undefined) throw refused(`Two ${what} have the id “${twice}”.`);
  };
  const strips = [song.master, ...song.tracks, ...song.buses];
  check(strips, 'tracks or buses');
  for (const { chain } of strips) {
    check(chain, 'processors');
    for (const { bands } of equalizersOf(chain)) check(bands, 'bands');
  }
}

const nameOf = (strip: Strip) => ('name' in strip ? strip.name : 'Master');

/**
 * Every output and send must lead to a bus of the song, every key to a track or bus of it, and nothing may feed, or listen to, itself.
 * @throws OrvidError `invalid-input`
 */
export function checkRouting(song: Song): void {
  for (const strip of [...song.tracks, ...song.buses]) {
    for (const target of [strip.outputId, ...strip.sends.map((send) => send.busId)]) {
      if (target !== MASTER_ID && !song.buses.some((bus) => bus.id === target)) {
        throw new OrvidError(
          'invalid-input',
          `“${strip.name}” is routed to “${target}”, which is not a bus of this song.`,
        );
      }
    }
  }
  const next = nextStrips(song);
  for (const strip of [...song.tracks, ...song.buses, song.master])
    for (const from of keyStripsOf(strip))
      if (from === MASTER_ID || !next.has(from))
        throw refused(
          `“${nameOf(strip)}” would listen to ${from === MASTER_ID ? 'the master' : 'a strip that is not in the song'}. Choose a track or a group as its key.`,
        );
  for (const strip of [...song.buses, ...song.tracks])
    if (reaches(next, strip.id).has(strip.id))
      throw refused(
        `“${strip.name}” would feed itself, or listen to what it feeds. Choose another output, send or key.`,
      );
}
