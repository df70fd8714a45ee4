import { BAND_DEFAULTS, type BandSettings } from './band';
import type { Edit } from './edit-schema';
import { batch } from './edits';
import { bandsOf, channelsOut, emptyEqualizer, newBus } from './model';
import type { Band, Bus, Song, Track } from './schema';

/** Ranges that a track can be split into at once. */
export const MOST_LAYERS = 6;

const CROSSOVER_FAMILY = 'linkwitz-riley';

/** A pass filter of a crossover: Linkwitz and Riley, 24 dB an octave. */
const crossover = (type: 'low-pass' | 'high-pass', frequencyHz: number): BandSettings => ({
  ...BAND_DEFAULTS,
  type,
  frequencyHz,
  family: CROSSOVER_FAMILY,
  order: 4,
});

/**
 * The filters of each range between some corners, from the lowest range on. With linear phase both sides of a crossover add up to the
 * original, 1/(1 + w⁴) and w⁴/(1 + w⁴) at w times its corner, and so do all ranges. Source: S. H. Linkwitz, "Active Crossover Networks for
 * Noncoincident Drivers", J. Audio Eng. Soc. 24 (1976).
 * @param cornersHz in rising order
 */
const splitFilters = (cornersHz: readonly number[]): BandSettings[][] =>
  Array.from({ length: cornersHz.length + 1 }, (_, layer) => [
    ...cornersHz.slice(0, layer).map((hz) => crossover('high-pass', hz)),
    ...(layer < cornersHz.length ? [crossover('low-pass', cornersHz[layer])] : []),
  ]);

/** The bands that share a recording out among layers, tracks of one recording in one group: the ranges of all of them add up to it. */
export function crossoverIds({ tracks }: Pick<Song, 'tracks'>): ReadonlySet<string> {
  const isLayer = ({ id, audioId, outputId }: Track) =>
    tracks.some((other) => other.id !== id && other.audioId === audioId && other.outputId === outputId);
  return new Set(
    tracks.filter(isLayer).flatMap((track) =>
      bandsOf(track)
        .filter(({ type, family }) => (type === 'high-pass' || type === 'low-pass') && family === CROSSOVER_FAMILY)
        .map(({ id }) => id),
    ),
  );
}

interface Wanted {
  /** Of the group, and of as many tracks as layers are added to the one that is there. */
  groupId: string;
  trackIds: readonly string[];
  /** One for each processor and band that is made. */
  newId: () => string;
}

/**
 * Turns a track into a group of parallel layers of the same recording: the ranges between some corners, or copies that are equal where there
 * is no corner. Ranges are cut out with linear phase: late, which everything else waits for. The group has what the track had behind its layers: chain, level, position, output and sends; the sum of the layers is as
 * loud as the track was.
 * @param cornersHz in rising order; none makes two equal copies
 * @returns null where the track is gone
 */
export function layerTrack(song: Song, trackId: string, cornersHz: readonly number[], wanted: Wanted): Edit | null {
  const at = song.tracks.findIndex(({ id }) => id === trackId);
  if (at < 0) return null;
  const track = song.tracks[at];
  const { chain, gainDb, pan, outputId, sends, muted, soloed, polarityInverted, midDb, sideDb } = track;
  const group: Bus = {
    ...newBus({ id: wanted.groupId, name: track.name, ink: track.ink }),
    ...{ chain, gainDb, pan: track.channels === 2 ? pan : 0, outputId, sends, muted, soloed, polarityInverted },
    ...(channelsOut(track) === 2 && { midDb, sideDb }),
  };
  const filters = cornersHz.length > 0 ? splitFilters(cornersHz) : [[], []];
  const layers = filters.map((bands, i): Track => {
    const id = i === 0 ? track.id : wanted.trackIds[i - 1];
    const named = bands.map((band, b): Band => ({ ...band, id: wanted.newId(), letter: String.fromCharCode(65 + b) }));
    return {
      ...track,
      id,
      name: `${track.name}, ${nameOf(i, cornersHz)}`,
      gainDb: cornersHz.length > 0 ? 0 : -20 * Math.log10(filters.length),
      pan: track.channels === 2 ? 0 : pan,
      muted: false,
      soloed: false,
      polarityInverted: false,
      midDb: 0,
      sideDb: 0,
      outputId: group.id,
      sends: [],
      claims: i === 0 ? track.claims : [],
      chain: [{ ...emptyEqualizer(wanted.newId()), phase: cornersHz.length > 0 ? 'linear' : 'minimum', bands: named }],
    };
  });
  const [first, ...others] = layers;
  const { name, outputId: into, pan: place, ...plain } = first;
  return batch([
    { kind: 'bus.add', bus: group, index: song.buses.length },
    { kind: 'chain.set', stripId: track.id, chain: first.chain },
    {
      kind: 'strip.set',
      stripId: track.id,
      changes: {
        name,
        outputId: into,
        pan: place,
        gainDb: plain.gainDb,
        muted: false,
        soloed: false,
        polarityInverted: false,
        midDb: 0,
        sideDb: 0,
        sends: [],
      },
    },
    ...others.map((layer, i): Edit => ({ kind: 'track.add', track: layer, index: at + 1 + i })),
  ]);
}

/** What a layer is called: by its range. */
function nameOf(layer: number, cornersHz: readonly number[]): string {
  const write = (hz: number) => (hz < 1000 ? `${Math.round(hz)} Hz` : `${Number((hz / 1000).toFixed(2))} kHz`);
  if (cornersHz.length === 0) return `layer ${layer + 1}`;
  if (layer === 0) return `below ${write(cornersHz[0])}`;
  if (layer === cornersHz.length) return `above ${write(cornersHz[layer - 1])}`;
  return `${write(cornersHz[layer - 1])} to ${write(cornersHz[layer])}`;
}
