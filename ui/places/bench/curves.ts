import {
  actsOnPath,
  designBand,
  designEqualizer,
  groupDelayMs,
  magnitudesDb,
  phasesDegrees,
  type Section,
} from '@/core/filters';
import type { Band, BandChannel, Equalizer } from '@/core/song';
import type { EqualizerCurve } from './bench-view';

/** A curve of the bench: what a signal on one path meets. */
export interface PathCurve {
  path: BandChannel;
  /** What is drawn of it, one value for each frequency: dB, degrees or ms. */
  values: Float64Array;
  /** False for the paths beside the one that is worked on. */
  isMain: boolean;
}

/** The paths that differ in an equalizer: one where every band acts on everything. */
export function pathsIn(bands: readonly Pick<Band, 'channel' | 'enabled'>[], channels: 1 | 2): BandChannel[] {
  if (channels === 1) return ['stereo'];
  const has = (...wanted: BandChannel[]) => bands.some(({ channel, enabled }) => enabled && wanted.includes(channel));
  const paths: BandChannel[] = [
    ...(has('mid', 'side') ? (['mid', 'side'] as const) : []),
    ...(has('left', 'right') ? (['left', 'right'] as const) : []),
  ];
  return paths.length > 0 ? paths : ['stereo'];
}

/** A curve of sections at some frequencies: dB, degrees (continuous from the lowest frequency on, or within ±180°) or ms. */
export function curveValues(
  curve: EqualizerCurve,
  sections: readonly Section[],
  frequenciesHz: Float64Array,
  rateHz: number,
): Float64Array {
  switch (curve) {
    case 'level':
      return magnitudesDb(sections, frequenciesHz, rateHz);
    case 'phase':
    case 'wrapped-phase':
      return phasesDegrees(sections, frequenciesHz, rateHz, curve === 'wrapped-phase');
    case 'delay':
      return frequenciesHz.map((hz) => groupDelayMs(sections, hz, rateHz));
  }
}

const levels = new WeakMap<Band, { frequenciesHz: Float64Array; rateHz: number; values: Float64Array }>();

/** Level of a band, dB: kept with it, since of all bands of an equalizer a drag moves one. */
function bandLevels(band: Band, frequenciesHz: Float64Array, rateHz: number): Float64Array {
  const kept = levels.get(band);
  if (kept?.frequenciesHz === frequenciesHz && kept.rateHz === rateHz) return kept.values;
  const values = magnitudesDb(designBand(band, rateHz), frequenciesHz, rateHz);
  levels.set(band, { frequenciesHz, rateHz, values });
  return values;
}

/** Level of an equalizer for what passes on a path, dB. */
function equalizerLevels(
  { bands, outputGainDb }: Equalizer,
  path: BandChannel,
  frequenciesHz: Float64Array,
  rateHz: number,
): Float64Array {
  const sum = new Float64Array(frequenciesHz.length).fill(outputGainDb);
  for (const band of bands) {
    if (!actsOnPath(band, path)) continue;
    const values = bandLevels(band, frequenciesHz, rateHz);
    for (let i = 0; i < sum.length; i++) sum[i] += values[i];
  }
  return sum;
}

/** The curves of an equalizer, that of the path that is worked on last, so that it is drawn on top. */
export function pathCurves(
  curve: EqualizerCurve,
  equalizer: Equalizer,
  { channels, path, rateHz }: { channels: 1 | 2; path: BandChannel; rateHz: number },
  frequenciesHz: Float64Array,
): PathCurve[] {
  const used = pathsIn(equalizer.bands, channels);
  const isTurned = equalizer.phase !== 'linear';
  const shown =
    path === 'stereo' || used.includes(path) ? used : [...used.filter((channel) => channel !== 'stereo'), path];
  return shown
    .map((channel) => ({
      path: channel,
      // Linear phase turns and delays nothing against the rest of the song: it is made up for.
      values:
        curve === 'level'
          ? equalizerLevels(equalizer, channel, frequenciesHz, rateHz)
          : isTurned
            ? curveValues(curve, designEqualizer(equalizer, rateHz, channel), frequenciesHz, rateHz)
            : new Float64Array(frequenciesHz.length),
      isMain: path === 'stereo' || channel === path,
    }))
    .sort((a, b) => Number(a.isMain) - Number(b.isMain));
}

/** What one band does by itself. */
export function bandCurve(
  curve: EqualizerCurve,
  band: Band,
  frequenciesHz: Float64Array,
  rateHz: number,
): Float64Array {
  return curve === 'level'
    ? bandLevels(band, frequenciesHz, rateHz)
    : curveValues(curve, designBand(band, rateHz), frequenciesHz, rateHz);
}

/** The vertical scale of phase and delay: what lies at the top and the bottom of the field, and the lines between. */
export interface ValueScale {
  top: number;
  bottom: number;
  ticks: readonly number[];
  write: (value: number) => string;
}

const STEPS = [1, 2, 5];

/** A step of 1, 2 or 5 times a power of ten that divides a range into at most so many parts. */
function tidyStep(range: number, parts: number): number {
  const rough = range / parts;
  const power = 10 ** Math.floor(Math.log10(rough));
  return power * ([...STEPS, 10].find((step) => step * power >= rough) ?? 10);
}

const signed = (text: string) => text.replace('-', '−');

/** A scale that holds all values of some curves. */
export function valueScale(curve: Exclude<EqualizerCurve, 'level'>, curves: readonly ArrayLike<number>[]): ValueScale {
  let [low, high] = [0, 0];
  for (const values of curves) {
    for (let i = 0; i < values.length; i++) {
      low = Math.min(low, values[i]);
      high = Math.max(high, values[i]);
    }
  }
  const step = curve === 'delay' ? tidyStep(Math.max(0.5, high - low), 5) : high - low > 720 ? 180 : 90;
  const least = curve === 'delay' ? step : 180;
  const bottom = Math.min(curve === 'delay' ? 0 : -least, Math.floor(low / step) * step);
  const top = Math.max(least, Math.ceil(high / step) * step);
  const ticks = Array.from({ length: Math.round((top - bottom) / step) + 1 }, (_, i) => bottom + i * step);
  const digits = Math.max(0, -Math.floor(Math.log10(step)));
  return {
    top,
    bottom,
    ticks,
    write: (value) => (curve === 'delay' ? `${signed(value.toFixed(digits))} ms` : `${signed(String(value))}°`),
  };
}
