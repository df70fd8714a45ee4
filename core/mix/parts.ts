import { compileSong } from '../engine';
import {
  crossoverIds,
  equalizersOf,
  findStrip,
  isEnd,
  keyStripsOf,
  MASTER_ID,
  newBus,
  withEqualizers,
  type Band,
  type Bus,
  type Chain,
  type Song,
  type Track,
} from '../song';

/** Songs that are made of a song to measure a part of it, or what a part does. */

const withChains = (song: Song, change: (chain: Chain) => Chain): Song => ({
  ...song,
  tracks: song.tracks.map((track) => ({ ...track, chain: change(track.chain) })),
  buses: song.buses.map((bus) => ({ ...bus, chain: change(bus.chain) })),
  master: { ...song.master, chain: change(song.master.chain) },
});

/** True for the ends of a song that take something away; crossovers of layers only share it out. */
const takesAway = (whole: Song) => {
  const crossovers = crossoverIds(whole);
  return (band: Band) => isEnd(band) && !crossovers.has(band.id);
};

/**
 * A song, or a part of it, without its pass filters: what they free is the difference.
 * @param whole what it is a part of
 */
export function withoutEnds(part: Song, whole: Song = part): Song {
  const isOpened = takesAway(whole);
  return withChains(part, (chain) =>
    withEqualizers(chain, (equalizer) => ({ ...equalizer, bands: equalizer.bands.filter((band) => !isOpened(band)) })),
  );
}

/** True where a song, or a part of it, has pass filters that are on. @param whole what it is a part of */
export function hasEnds(part: Song, whole: Song = part): boolean {
  const isOpened = takesAway(whole);
  return [...part.tracks, ...part.buses, part.master].some(({ chain }) =>
    equalizersOf(chain).some(({ enabled, bands }) => enabled && bands.some(isOpened)),
  );
}

/**
 * A part of a song as a song of its own: a track or bus with its chain, fader and position before what it runs into; the song itself for
 * the master. A track is measured though it is muted.
 */
export function partOf(song: Song, stripId: string): Song {
  const strip = findStrip(song, stripId);
  if (!strip || strip.id === MASTER_ID || !('outputId' in strip)) return song;
  const master = { ...song.master, gainDb: 0, chain: [] };
  if ('audioId' in strip && keyStripsOf(strip).length === 0) {
    const alone: Track = { ...strip, muted: false, soloed: false, outputId: MASTER_ID, sends: [] };
    return { ...song, tracks: [alone], buses: [], master };
  }
  // Everything else runs on, since it may feed the bus, or be listened to, but is led nowhere: into a bus that is muted.
  const nowhere = { ...newBus({ id: 'nowhere', name: 'Nowhere', ink: 0 }), muted: true, chain: [] };
  const led = <T extends Track | Bus>(other: T): T =>
    other.id === stripId
      ? { ...other, muted: false, soloed: false, outputId: MASTER_ID, sends: [] }
      : { ...other, soloed: false, outputId: other.outputId === MASTER_ID ? nowhere.id : other.outputId };
  return {
    ...song,
    tracks: song.tracks.map(led),
    buses: [...song.buses.map(led), nowhere],
    master,
  };
}

/** Switches of a strip by which others are not heard. */
const HUSHING = new Set(['muted', 'soloed']);

/**
 * Those of some tracks and buses that sound in the song's mix as they do by themselves (see {@link partOf}), so that all of them can be heard in one
 * render: none where anything is soloed, or is muted for a while, and none that is muted.
 */
export function heardInMix(song: Song, stripIds: readonly string[]): string[] {
  const hushed = song.passages.some(({ changes }) => changes.some(({ figure }) => HUSHING.has(figure.field)));
  if (hushed || [...song.tracks, ...song.buses].some(({ soloed }) => soloed)) return [];
  const { tracks, buses } = compileSong(song);
  const audible = new Set([...tracks, ...buses].filter((strip) => strip.audible === 1).map(({ id }) => id));
  return stripIds.filter((id) => audible.has(id));
}
