import { kinOf, pairKey, type Song, type Track } from '@/core/song';
import { deskStore, type Desk } from '../desk/desk';

/** Which recordings of the song are of one source: found from their sound. */
interface OneSourceStore {
  /** Pairs of recordings that are, see `pairKey`. */
  pairs: ReadonlySet<string>;
  /** Pairs that were looked at. */
  judged: ReadonlySet<string>;
  judge: (audioIds: readonly [string, string], isOne: boolean) => void;
}

export const useOneSource = deskStore<OneSourceStore>(() => (set, get) => ({
  pairs: new Set(),
  judged: new Set(),
  judge: ([first, second], isOne) => {
    const { pairs, judged } = get();
    const key = pairKey(first, second);
    const others = [...pairs].filter((known) => known !== key);
    set({
      judged: new Set([...judged, key]),
      pairs: pairs.has(key) === isOne ? pairs : new Set(isOne ? [...others, key] : others),
    });
  },
}));

/** The tracks that are one source with a track, as far as is known. */
export const kinNow = (desk: Desk, song: Song, track: Track): Track[] =>
  kinOf(song, track, useOneSource.of(desk).pairs);
