import { findStrip, isEnd, MASTER_ID, type Chain, type Song, type Track } from '../song';

/** Songs that are made of a song to measure a part of it, or what a part does. */

const withChains = (song: Song, change: (chain: Chain) => Chain): Song => ({
  ...song,
  tracks: song.tracks.map((track) => ({ ...track, chain: change(track.chain) })),
  buses: song.buses.map((bus) => ({ ...bus, chain: change(bus.chain) })),
  master: { ...song.master, chain: change(song.master.chain) },
});

/** The song without its pass filters: what they free is the difference. */
export const withoutEnds = (song: Song): Song =>
  withChains(song, (chain) =>
    chain.map((equalizer) => ({ ...equalizer, bands: equalizer.bands.filter((band) => !isEnd(band)) })),
  );

/** True where a song, or a part of it, has pass filters that are on. */
export const hasEnds = (song: Song): boolean =>
  [...song.tracks, ...song.buses, song.master].some(({ chain }) =>
    chain.some(({ enabled, bands }) => enabled && bands.some(isEnd)),
  );

/**
 * A part of a song as a song of its own: a track or bus with its chain, fader and position before what it runs into; the song itself for
 * the master. A track is measured though it is muted.
 */
export function partOf(song: Song, stripId: string): Song {
  const strip = findStrip(song, stripId);
  if (!strip || strip.id === MASTER_ID || !('outputId' in strip)) return song;
  const master = { ...song.master, gainDb: 0, chain: [] };
  if ('audioId' in strip) {
    const alone: Track = { ...strip, muted: false, soloed: false, outputId: MASTER_ID, sends: [] };
    return { ...song, tracks: [alone], buses: [], master };
  }
  // Everything else runs on, since it may feed the bus, but is led nowhere: into a bus that is muted.
  const nowhere = { ...strip, id: 'nowhere', muted: true, outputId: MASTER_ID, sends: [], chain: [] };
  const led = (outputId: string) => (outputId === MASTER_ID ? nowhere.id : outputId);
  return {
    ...song,
    tracks: song.tracks.map((track) => ({ ...track, soloed: false, outputId: led(track.outputId) })),
    buses: [
      ...song.buses.map((bus) =>
        bus.id === stripId
          ? { ...bus, muted: false, soloed: false, outputId: MASTER_ID, sends: [] }
          : { ...bus, soloed: false, outputId: led(bus.outputId) },
      ),
      nowhere,
    ],
    master,
  };
}
