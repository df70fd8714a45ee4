import { MASTER_ID, type Bus, type Song, type Track } from '@/core/song';

/** One part of a mix as a song of its own: rendered, it is the stem. */
export interface Stem {
  name: string;
  song: Song;
}

const plainMaster = (song: Song): Song['master'] => ({ ...song.master, gainDb: 0, chain: [] });
const unmuted = { muted: false, soloed: false };

/**
 * Each track and each bus by itself: with its own chain, fader and position, before the bus or master that it runs into. Tracks
 * that are muted in the song are silent in their bus and have no stem.
 */
export function stemsOf(song: Song): Stem[] {
  const alone = (track: Track): Stem => ({
    name: track.name,
    song: {
      ...song,
      tracks: [{ ...track, ...unmuted, outputId: MASTER_ID, sends: [] }],
      buses: [],
      master: plainMaster(song),
    },
  });
  const ofBus = (bus: Bus): Stem => ({
    name: bus.name,
    song: {
      ...song,
      // Everything else is kept running, since it may feed the bus, but led nowhere: into a bus that is muted.
      tracks: song.tracks.map((track) => ({
        ...track,
        soloed: false,
        outputId: track.outputId === MASTER_ID ? NOWHERE : track.outputId,
      })),
      buses: [
        ...song.buses.map((one) =>
          one.id === bus.id
            ? { ...one, ...unmuted, outputId: MASTER_ID, sends: [] }
            : { ...one, soloed: false, outputId: one.outputId === MASTER_ID ? NOWHERE : one.outputId },
        ),
        { ...bus, id: NOWHERE, name: 'nowhere', muted: true, soloed: false, outputId: MASTER_ID, sends: [], chain: [] },
      ],
      master: plainMaster(song),
    },
  });
  return [
    ...song.tracks.filter((track) => !track.muted).map(alone),
    ...song.buses.filter((bus) => !bus.muted).map(ofBus),
  ];
}

const NOWHERE = 'nowhere';
