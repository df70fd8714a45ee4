import fc from 'fast-check';
import { seededRandom } from '../../formats';
import {
  emptyEqualizer,
  emptySong,
  FIGURES,
  MASTER_ID,
  newBandSettings,
  newBus,
  newProcessor,
  newTrack,
  OWN_KEY,
  PROCESSOR_KINDS,
  type Bus,
  type Chain,
  type ChainProcessor,
  type Figure,
  type ProcessorKind,
  type Song,
  type Track,
} from '../../song';
import { compileSong, type CompiledTrack } from '../compile';
import { songKernels } from '../song-kernels';
import { renderMix } from '../render';
import type { SampleSource } from '../source';

/** Songs of any kind for tests, and what they sound like. */

export const RATE = 48000;
export const LENGTH = 24000;

export const track = (id: string, channels: 1 | 2, chain: Chain = []): Track => ({
  ...newTrack({ audioId: 'ab'.repeat(32), channels, lengthFrames: LENGTH }, { id, name: id, ink: 0 }),
  chain,
});
export const bus = (id: string, chain: Chain = [], changes: Partial<Bus> = {}): Bus => ({
  ...newBus({ id, name: id, ink: 0 }),
  chain,
  ...changes,
});
export const processor = <K extends ProcessorKind>(
  kind: K,
  changes: Partial<Extract<ChainProcessor, { kind: K }>> = {},
  id: string = kind,
): ChainProcessor => ({ ...newProcessor(kind, id), ...changes }) as ChainProcessor;
export const key = (stripId: string, lowHz: number | null = null, highHz: number | null = null) => ({
  stripId,
  lowHz,
  highHz,
});

/** Bursts of noise, other ones for each track. */
function sourceOf(id: string): SampleSource {
  const random = seededRandom(id.charCodeAt(0));
  const sides = [0, 1].map(() =>
    Float64Array.from(
      { length: LENGTH },
      (_, n) => (random() - 0.5) * ((n + 1999 * id.charCodeAt(0)) % 9000 < 3000 ? 1 : 0.02),
    ),
  );
  return {
    channels: 2,
    read: (frame, count, left, right) => {
      for (let n = 0; n < count; n++) {
        left[n] = sides[0][frame + n] ?? 0;
        right[n] = sides[1][frame + n] ?? 0;
      }
    },
  };
}
const mono = (source: SampleSource): SampleSource => ({ ...source, channels: 1 });
const sources = new Map(['a', 'b', 'c', 'd'].map((id) => [id, sourceOf(id)]));
export const channelsOf = ({ id, channels }: { id: string; channels: 1 | 2 }) =>
  channels === 1 ? mono(sources.get(id)!) : sources.get(id)!;

/** A song rendered, both sides. @param of the samples of a track */
export function offline(song: Song, of: (plan: CompiledTrack) => SampleSource = channelsOf): Float64Array[] {
  const kernels = songKernels(song);
  const sides = [new Float64Array(LENGTH), new Float64Array(LENGTH)];
  const whole = { startFrame: 0, endFrame: LENGTH };
  for (const { left, right, frames, frame } of renderMix(compileSong(song), of, kernels, whole)) {
    sides[0].set(left.subarray(0, frames), frame);
    sides[1].set(right.subarray(0, frames), frame);
  }
  return sides;
}

export const apartDb = (first: Float64Array[], second: Float64Array[]) =>
  20 *
  Math.log10(
    Math.max(
      1e-12,
      ...first.map((side, i) => side.reduce((most, value, n) => Math.max(most, Math.abs(value - second[i][n])), 0)),
    ),
  );
/** Any processor within its ranges; times short enough for what is played. */
const anyProcessor = (id: string, strips: readonly string[]): fc.Arbitrary<ChainProcessor> =>
  fc.constantFrom<ChainProcessor['kind']>('equalizer', ...PROCESSOR_KINDS).chain((kind) => {
    const enabled = fc.boolean();
    if (kind === 'equalizer')
      return fc
        .record({
          enabled,
          phase: fc.constantFrom('minimum' as const, 'minimum' as const, 'linear' as const),
          hz: fc.double({ min: 100, max: 8000, noNaN: true }),
        })
        .map(({ hz, ...rest }) => ({
          ...emptyEqualizer(id),
          ...rest,
          bands: [
            { ...newBandSettings('bell', hz), gainDb: 4, id: `${id}-band`, letter: 'A' },
            {
              ...newBandSettings('low-shelf', hz / 2),
              id: `${id}-way`,
              letter: 'B',
              givesWay: {
                amountDb: -9,
                thresholdDb: -40,
                attackMs: 5,
                holdMs: 10,
                releaseMs: 60,
                key: key(strips[strips.length - 1], 200, null),
              },
            },
          ],
        }));
    const figures = Object.fromEntries(
      Object.entries<Figure>(FIGURES[kind]).map(([field, { min, max }]) => [
        field,
        fc.double({ min, max, noNaN: true }),
      ]),
    );
    const keyed = fc.constantFrom(...strips).map((stripId) => key(stripId, null, stripId === OWN_KEY ? 3000 : null));
    return fc.record({ enabled, ...figures, key: keyed }).map(({ key, ...rest }) => {
      const made = { ...newProcessor(kind, id), ...rest } as ChainProcessor;
      return 'key' in made ? { ...made, key } : made;
    });
  });

/** Any song of three tracks, a group and a return, whose processors listen to strips that come before them. */
export const anySong: fc.Arbitrary<Song> = fc
  .record({
    a: fc.array(anyProcessor('p', [OWN_KEY]), { maxLength: 2 }),
    b: fc.tuple(anyProcessor('p', [OWN_KEY, 'a']), anyProcessor('q', [OWN_KEY, 'a'])),
    c: fc.array(anyProcessor('p', [OWN_KEY, 'a', 'b']), { maxLength: 1 }),
    group: fc.tuple(anyProcessor('p', [OWN_KEY, 'c'])),
    room: fc.tuple(anyProcessor('p', [OWN_KEY, 'a', 'c'])),
    master: fc.array(anyProcessor('p', [OWN_KEY, 'group']), { maxLength: 1 }),
    delayMs: fc.double({ min: -20, max: 20, noNaN: true }),
  })
  .map(({ delayMs, ...chains }) => {
    const send = { busId: 'room', gainDb: -6, tap: 'after-fader' as const, enabled: true };
    return {
      ...emptySong('Any'),
      tracks: [
        { ...track('a', 1, chains.a), sends: [send] },
        { ...track('b', 2, chains.b), outputId: 'group', delayMs },
        { ...track('c', 2, chains.c), pan: 0.3, sends: [{ ...send, tap: 'before-fader' as const, enabled: true }] },
        track('d', 1),
      ],
      buses: [bus('group', chains.group), bus('room', chains.room)],
      master: { id: MASTER_ID, gainDb: 0, chain: chains.master },
    };
  });
