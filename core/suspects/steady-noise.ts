import { FINE_HZ, type FineSpectrum } from './fine-spectrum';
import { percentile } from './frames';
import type { FoundSuspect } from './suspect';

/**
 * Noise hardly moves: from a fifth to half of the time its level goes up by no more than this, and to 85 % by no more than that, dB. In a
 * band of one bin it moves by its nature; the highest of many bins is calmer.
 */
const CALM_DB = { oneBin: { low: 8, high: 8 }, manyBins: { low: 2.5, high: 3 } };
const MANY_BINS = 20;
/** What a quiet recording is taken to have anyway, level of a range, dB relative to a full-scale sine. */
const QUIET_DB = -75;
const FEWEST_FRAMES = 45;
/** Width of a band over its middle. */
const BAND_WIDTH = 2 ** (1 / 48) - 2 ** (-1 / 48);
/** A recording that hardly moves as a whole is noise by intention, dB from a fifth to 95 % of the time. */
const LEAST_MOVEMENT_DB = 9;
/** The bands of a range that must be calm. */
const CALM_SHARE = 0.7;

interface Range {
  kind: 'rumble' | 'hiss';
  fromHz: number;
  toHz: number;
  /** What is calm beside it belongs to it as far as this, Hz. */
  reachHz: readonly [number, number];
}
const RUMBLE: Range = { kind: 'rumble', fromHz: 20, toHz: 52, reachHz: [0, 80] };
const HISS: Range = { kind: 'hiss', fromHz: 5000, toHz: 15000, reachHz: [2000, 20000] };

/**
 * Noise that runs under all that is played: rumble below 55 Hz, hiss above 5 kHz.
 * @param isHum true at frequencies of hum, which is calm as well
 */
export function steadyNoise(fine: FineSpectrum, isHum: (hz: number) => boolean): FoundSuspect[] {
  const frames = fine.present;
  if (frames.length < FEWEST_FRAMES) return [];
  const totals = frames.map((frame) => fine.totalDb(frame)).sort((a, b) => a - b);
  if (percentile(totals, 0.95) - percentile(totals, 0.2) < LEAST_MOVEMENT_DB) return [];
  const low = fine.percentileDb(frames, 0.2);
  const middle = fine.percentileDb(frames, 0.5);
  const high = fine.percentileDb(frames, 0.85);
  const isCalm = (band: number) => {
    const calm = FINE_HZ[band] * BAND_WIDTH > MANY_BINS * fine.binHz ? CALM_DB.manyBins : CALM_DB.oneBin;
    return middle[band] - low[band] <= calm.low && high[band] - middle[band] <= calm.high && middle[band] > -115;
  };
  return [RUMBLE, HISS].flatMap(({ kind, fromHz, toHz, reachHz }): FoundSuspect[] => {
    const bands = FINE_HZ.flatMap((hz, band) => (hz >= fromHz && hz <= toHz && !isHum(hz) ? [band] : []));
    const calm = bands.filter(isCalm);
    if (calm.length < CALM_SHARE * bands.length) return [];
    // A band's level is that of its strongest bin; noise fills all of them.
    const levelDb =
      10 *
      Math.log10(
        calm.reduce((sum, band) => {
          const bins = Math.max(1, (FINE_HZ[band] * BAND_WIDTH) / fine.binHz);
          return sum + 10 ** (middle[band] / 10) * bins * (bins > 1 ? 0.5 : 1);
        }, 1e-15),
      );
    const prominenceDb = levelDb - QUIET_DB;
    if (prominenceDb < 4) return [];
    // What is calm may reach further.
    let [first, last] = [calm[0], calm[calm.length - 1]];
    while (FINE_HZ[first - 1] > reachHz[0] && isCalm(first - 1)) first--;
    while (FINE_HZ[last + 1] < reachHz[1] && isCalm(last + 1)) last++;
    const [lowHz, highHz] = [FINE_HZ[first], FINE_HZ[last]];
    return [
      {
        kind,
        frequencyHz: Math.sqrt(lowHz * highHz),
        lowHz,
        highHz,
        prominenceDb,
        timeShare: 1,
        sureness: Math.min(0.95, 0.4 + (0.3 * calm.length) / bands.length + prominenceDb / 80),
      },
    ];
  });
}
