import { CorrelationMeter } from '@/core/measure/stereo-image';
import { integratedLufs, loudnessRangeLu, momentaryLufs, shortTermLufs } from '@/core/measure/loudness';
import { SoundMeter } from '@/core/measure/sound-meter';
import { offer } from './offer';

/** Measures what is overheard of a strip or of the mix while it plays. Thin: the measures are in core/. */
const POINTS = 700;
/** Correlation follows the sound of about the last third of a second. */
const IMAGE_SAMPLES = 16384;

let rateHz = 48000;
let left: Float32Array = new Float32Array(0);
let right: Float32Array = new Float32Array(0);
let meter = new SoundMeter(rateHz, 2);
let read = 0;
/** Integrated loudness and range look back over all that was heard: they are worked out once a second. */
let whole = { integratedLufs: -Infinity, rangeLu: 0 };
let wholeAt = 0;

export interface LiveFigures {
  momentaryLufs: number;
  shortTermLufs: number;
  integratedLufs: number;
  rangeLu: number;
  truePeakDbtp: number;
  crestDb: number;
  correlation: number | null;
  /** Left and right in turn, the last ones. */
  points: Float32Array;
}

const liveMeters = {
  setRing(songRateHz: number, leftRing: SharedArrayBuffer, rightRing: SharedArrayBuffer, position: number): void {
    rateHz = songRateHz;
    left = new Float32Array(leftRing);
    right = new Float32Array(rightRing);
    liveMeters.forget(position);
  },

  /** Begins anew. */
  forget(position: number): void {
    meter = new SoundMeter(rateHz, 2);
    read = wholeAt = position;
    whole = { integratedLufs: -Infinity, rangeLu: 0 };
  },

  /** @param position samples written so far; what is older than the rings is passed over */
  measure(position: number): LiveFigures {
    const from = Math.max(read, position - left.length);
    read = position;
    const mask = left.length - 1;
    const cut = (ring: Float32Array, start: number, count: number) =>
      Float32Array.from({ length: count }, (_, n) => ring[(start + n) & mask]);
    if (position > from) meter.push([cut(left, from, position - from), cut(right, from, position - from)]);
    const recent = Math.min(IMAGE_SAMPLES, position);
    const image = new CorrelationMeter();
    const [first, second] = [cut(left, position - recent, recent), cut(right, position - recent, recent)];
    image.push(first, second);
    const points = new Float32Array(2 * POINTS);
    for (let n = 0; n < POINTS && n < recent; n++) {
      points[2 * n] = first[recent - 1 - n];
      points[2 * n + 1] = second[recent - 1 - n];
    }
    const { powers } = meter;
    if (position - wholeAt >= rateHz) {
      whole = { integratedLufs: integratedLufs(powers), rangeLu: loudnessRangeLu(powers) };
      wholeAt = position;
    }
    return {
      momentaryLufs: momentaryLufs(powers),
      shortTermLufs: shortTermLufs(powers),
      ...whole,
      truePeakDbtp: meter.truePeakDb,
      crestDb: meter.crestDb,
      correlation: image.correlation,
      points,
    };
  },
};

export type LiveMeters = typeof liveMeters;

offer(liveMeters);
