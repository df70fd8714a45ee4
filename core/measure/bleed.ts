import { coherenceOf, findPlace, isSharedByOne, sharedOf } from './alignment';
import type { FrequencyBand } from './bands';
import { crossSpectrum, type CrossSpectrum } from './cross-spectrum';

/** What of one recording is heard in another. */
export interface Bleed extends FrequencyBand {
  /** Share of the power in that range which comes from the other, 0 to 1. */
  share: number;
  /** How much later it is there than in the other, seconds. */
  delaySeconds: number;
  /** By third-octaves: all that is there, and what of it comes from the other, dB beside the loudest third-octave. */
  picture: { frequenciesHz: number[]; wholeDb: number[]; othersDb: number[] };
}

/** Middles of third-octaves, base ten: IEC 61260-1:2014. */
const THIRDS_HZ = Array.from({ length: 28 }, (_, i) => 1000 * 10 ** ((i - 15) / 10));
const HALF_THIRD = 10 ** (1 / 20);
/** From so much on a third-octave belongs to the other, and so many of them make a range. */
const MOST_OF_IT = 0.6;
const FEWEST_THIRDS = 2;
/** So much is looked for where both stand as they were recorded; frames are many times as long as the delays. */
const SUSPECTED = 0.4;
/** What lies so far below the loudest third-octave is not worth a word, dB. */
const HEARD_DB = 40;
/** Nearer than this the one is not clearly later than the other. */
const CLEARLY_LATER_SECONDS = 0.0003;
/** Two halves of the sound have to find the same place to this share of the shortest period. */
const PERIODS = 0.1;

const toDb = (power: number) => 10 * Math.log10(power + 1e-30);

/** Powers by third-octaves, and what of them is coherent with the other signal. */
function thirdsOf(cross: CrossSpectrum, which: 'first' | 'second') {
  return THIRDS_HZ.map((hz) => {
    const found = { hz, whole: 0, shared: 0 };
    const [first, end] = [hz / HALF_THIRD, hz * HALF_THIRD].map((edge) => Math.ceil(edge / cross.binHz));
    for (let k = first; k < end && k < cross.first.length; k++) {
      found.whole += cross[which][k];
      found.shared += coherenceOf(cross, k) * cross[which][k];
    }
    return found;
  });
}
type Thirds = ReturnType<typeof thirdsOf>;

const sharedPart = (thirds: Thirds) =>
  thirds.reduce((sum, { shared }) => sum + shared, 0) /
  Math.max(
    1e-30,
    thirds.reduce((sum, { whole }) => sum + whole, 0),
  );

const bandOf = (range: Thirds): FrequencyBand => ({
  lowHz: range[0].hz / HALF_THIRD,
  highHz: range[range.length - 1].hz * HALF_THIRD,
});

/** The stretch of third-octaves that mostly belong to the other in which there is most of it; null where there is none. */
function rangeOf(thirds: Thirds, least: number): Thirds | null {
  const loudest = Math.max(...thirds.map(({ whole }) => whole));
  const belongs = thirds.map(
    ({ whole, shared }) => shared >= least * whole && whole > loudest * 10 ** (-HEARD_DB / 10),
  );
  let best: Thirds | null = null;
  const powerOf = (range: Thirds) => range.reduce((sum, { shared }) => sum + shared, 0);
  for (let from = 0; from < thirds.length; from++) {
    if (!belongs[from] || belongs[from - 1]) continue;
    const end = belongs.indexOf(false, from);
    const range = thirds.slice(from, end < 0 ? undefined : end);
    if (range.length >= FEWEST_THIRDS && (!best || powerOf(range) > powerOf(best))) best = range;
  }
  return best;
}

/**
 * What of a source is heard in the recording of another one: the range in which most of it is coherent with the source's own recording. It comes
 * later than there; where it hardly does, the one of which less is shared is the one that it bleeds into. Coherent output power: J. S. Bendat
 * and A. G. Piersol, "Random Data: Analysis and Measurement Procedures", 4th ed., 2010, chapter 6 (from memory).
 * @param recording samples, mono
 * @param source as many
 * @returns null where nothing of it is there, or both are recordings of one source
 */
export function findBleed(recording: ArrayLike<number>, source: ArrayLike<number>, rateHz: number): Bleed | null {
  const rough = crossSpectrum(source, recording, rateHz);
  const around = rangeOf(thirdsOf(rough, 'second'), SUSPECTED);
  if (!around) return null;
  const place =
    findPlace(source, recording, rateHz, { lowHz: 20, highHz: rateHz / 2 }, rough) ??
    findPlace(source, recording, rateHz, bandOf(around), rough, PERIODS / bandOf(around).highHz);
  if (!place || isSharedByOne(sharedOf(place.cross))) return null;
  const delaySeconds = -place.seconds;
  const thirds = thirdsOf(place.cross, 'second');
  if (delaySeconds < -CLEARLY_LATER_SECONDS) return null;
  const isBeside = delaySeconds <= CLEARLY_LATER_SECONDS;
  if (isBeside && sharedPart(thirds) > sharedPart(thirdsOf(place.cross, 'first'))) return null;
  const range = rangeOf(thirds, MOST_OF_IT);
  if (!range) return null;
  const loudest = Math.max(...thirds.map(({ whole }) => whole));
  const levels = (of: 'whole' | 'shared') => thirds.map((third) => Number(toDb(third[of] / loudest).toFixed(1)));
  return {
    ...bandOf(range),
    share: sharedPart(range),
    delaySeconds,
    picture: {
      frequenciesHz: thirds.map(({ hz }) => Number(hz.toPrecision(4))),
      wholeDb: levels('whole'),
      othersDb: levels('shared'),
    },
  };
}
