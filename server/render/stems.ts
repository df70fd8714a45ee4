import { partOf } from '@/core/mix';
import { BEFORE_MASTER, MIX, type PlannedFile } from '@/core/renders';
import { tracksLeftOut, type Bus, type Song, type Track } from '@/core/song';

/** The song with what solo silences muted, and nothing soloed. */
function withoutSolo(song: Song): Song {
  const silent = new Set(tracksLeftOut(song).notSoloed.map(({ id }) => id));
  const plain = <T extends Track | Bus>(strip: T): T => ({
    ...strip,
    soloed: false,
    muted: strip.muted || silent.has(strip.id),
  });
  return { ...song, tracks: song.tracks.map(plain), buses: song.buses.map(plain) };
}

/**
 * What is to be heard in a file, as a song of its own. A track, group or return is alone, with its own chain, fader and position, before what
 * it runs into.
 */
export function soundOf(song: Song, { what, throughMaster }: Pick<PlannedFile, 'what' | 'throughMaster'>): Song {
  if (what === MIX) return song;
  const master = { ...song.master, gainDb: 0, chain: [] };
  if (what === BEFORE_MASTER) return { ...song, master };
  const alone = partOf(withoutSolo(song), what);
  return throughMaster ? { ...alone, master: song.master } : alone;
}
