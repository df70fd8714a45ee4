import { K_POWERS, SPECTRUM_BAND_EDGES, SPECTRUM_BANDS, SPECTRUM_CENTERS_HZ, type FrequencyBand } from '../measure';
import { playedBlocks } from './clearance';
import type { Blocks, Field } from './fields';
import { lostShare } from './masking';

/** Where parts are usually meant to be heard, by words of their names, the first that fits. Common practice. */
const USUAL: readonly { words: RegExp; lowHz: number; highHz: number }[] = [
  { words: /kick|stomp|foot/i, lowHz: 45, highHz: 110 },
  { words: /bass/i, lowHz: 60, highHz: 250 },
  { words: /snare|clap/i, lowHz: 900, highHz: 5000 },
  { words: /drum|tom|percussion/i, lowHz: 100, highHz: 600 },
  { words: /hat|cymbal|shaker|tambourine/i, lowHz: 5000, highHz: 14000 },
  { words: /voice|vocal|sing|choir/i, lowHz: 400, highHz: 4000 },
  { words: /cello|viola|bassoon|trombone/i, lowHz: 130, highHz: 700 },
  { words: /guitar|banjo|mandolin|dulcimer|harp/i, lowHz: 250, highHz: 3000 },
  { words: /piano|keys|organ|concertina|accordion/i, lowHz: 250, highHz: 2500 },
  { words: /violin|fiddle|flute|trumpet|whistle|horn/i, lowHz: 500, highHz: 4500 },
  { words: /pad|synth|string/i, lowHz: 300, highHz: 2500 },
];

/** Where a part is usually heard, by its name; null where nothing is known of it. */
export function usualRange(part: string): FrequencyBand | null {
  const usual = USUAL.find(({ words }) => words.test(part));
  return usual ? { lowHz: usual.lowHz, highHz: usual.highHz } : null;
}

/** Outside of what is usual for a part a band counts this much; inside it counts in full. */
const UNUSUAL = 0.35;
/** A band is worth claiming from this share of what the best one is worth. */
const WORTH = 0.3;
const MOST_BANDS = 30;
const LEAST_BANDS = 6;

/**
 * A claim for a track, from its part and its spectrum: the stretch of bands in which it has most of its K-weighted power left after
 * what the rest of the mix, as strong as the track, would cover; half an octave to two and a half octaves wide. Its level changes nothing.
 * @param all excitation of the whole mix, the track included
 * @returns edges rounded to two figures; null where the track does not play
 */
export function proposeClaim(part: string, own: Field, all: ArrayLike<number>, blocks: Blocks): FrequencyBand | null {
  const usual = usualRange(part);
  const total = new Float64Array(blocks.count);
  for (let block = 0; block < blocks.count; block++)
    for (let band = 0; band < SPECTRUM_BANDS; band++) total[block] += own.powers[block * SPECTRUM_BANDS + band];
  const played = playedBlocks(total);
  if (!played.includes(true)) return null;
  // Held against the rest as if both were equally strong: a claim is a matter of part and sound, not of level.
  let [ownSum, restSum] = [0, 0];
  for (let at = 0; at < all.length; at++) {
    if (!played[Math.floor(at / SPECTRUM_BANDS)]) continue;
    ownSum += own.excitation[at];
    restSum += Math.max(0, all[at] - own.excitation[at]);
  }
  const evened = restSum > 0 ? ownSum / restSum : 1;
  const worth = Array.from({ length: SPECTRUM_BANDS }, (_, band) => {
    let sum = 0;
    for (let block = 0; block < blocks.count; block++) {
      if (!played[block]) continue;
      const at = block * SPECTRUM_BANDS + band;
      const excitation = own.excitation[at];
      if (excitation === 0) continue;
      const rest = Math.max(1e-6 * excitation, evened * (all[at] - excitation));
      // What is covered altogether counts a little: a claim can be made where there is no room yet.
      const heard = 0.2 + 0.8 * (1 - lostShare(10 * Math.log10(rest / excitation)));
      sum += Math.sqrt(K_POWERS[band] * excitation) * heard;
    }
    const hz = SPECTRUM_CENTERS_HZ[band];
    return sum * (!usual || (hz >= usual.lowHz && hz <= usual.highHz) ? 1 : UNUSUAL);
  });
  const best = Math.max(...worth);
  let first = worth.indexOf(best);
  let last = first;
  // It grows to the better side, as long as that is worth it.
  while (last - first + 1 < MOST_BANDS) {
    const below = worth[first - 1] ?? 0;
    const above = worth[last + 1] ?? 0;
    if (Math.max(below, above) < WORTH * best && last - first + 1 >= LEAST_BANDS) break;
    if (below >= above && first > 0) first--;
    else if (last < SPECTRUM_BANDS - 1) last++;
    else break;
  }
  const tidy = (hz: number) => Number(hz.toPrecision(2));
  return { lowHz: tidy(SPECTRUM_BAND_EDGES[first].lowHz), highHz: tidy(SPECTRUM_BAND_EDGES[last].highHz) };
}
