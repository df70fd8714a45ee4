/** The reverb's lines where nothing of them is on its way: see `reverb.ts`. Each vector holds two lines, an even one and the next. */
import { PAIR } from './filter';

const LINES: i32 = 16;
const PAIRS: i32 = LINES / 2;
/** Vectors for each two lines: see `reverb-memory.ts`. */
const STRIDE: usize = 11 * PAIR;
const BOTH: usize = 0;
const LOW: usize = PAIR;
const HIGH: usize = 2 * PAIR;
const KEPT_LOW: usize = 3 * PAIR;
const FOLLOW_LOW: usize = 4 * PAIR;
const KEPT_HIGH: usize = 5 * PAIR;
const FOLLOW_HIGH: usize = 6 * PAIR;
const LOW_POLE: usize = 7 * PAIR;
const HIGH_POLE: usize = 8 * PAIR;
const HEARD: usize = 9 * PAIR;
const FED: usize = 10 * PAIR;
/** Of each line where its past lies, how long that is less one, and how late it comes out; of one that moves, in their place, how late and its slope. */
const PLACE: usize = 12;
/** Frames in which each line stays as it is. */
const MOST: usize = 128;

@inline
function sample(past: usize, place: i32, mask: i32): usize {
  return past + (<usize>(place & mask)) * 8;
}

/** Cubic Lagrange between four frames. @param back how long ago */
@inline
function between(past: usize, mask: i32, now: i32, back: f64): f64 {
  const whole = floor(back);
  const f = back - whole;
  const place = now - <i32>whole;
  const up = (f + 1) * f;
  const down = (f - 1) * (f - 2);
  const outer = load<f64>(sample(past, place - 2, mask)) * up * (f - 1) - load<f64>(sample(past, place + 1, mask)) * f * down;
  const inner = load<f64>(sample(past, place, mask)) * (f + 1) * down - load<f64>(sample(past, place - 1, mask)) * up * (f - 2);
  return outer / 6 + inner / 2;
}

/** What comes out of two lines, through the filters that decide how long they ring. */
@inline
function filtered(at: usize, x: v128, low: v128, high: v128): v128 {
  const straight = f64x2.add(f64x2.mul(v128.load(at + BOTH), x), f64x2.mul(v128.load(at + LOW), low));
  return f64x2.sub(straight, f64x2.mul(v128.load(at + HIGH), high));
}

@inline
function followed(pole: v128, x: v128, kept: v128, follow: v128): v128 {
  return f64x2.add(f64x2.mul(kept, pole), f64x2.mul(follow, x));
}

/** Four lines, the second of which moves. */
function readFour(
  numbers: usize,
  places: usize,
  from: f64,
  slope: f64,
  since: i32,
  at: i32,
  frames: i32,
  lanes: usize,
  out: usize,
): void {
  const other = numbers + STRIDE;
  let low = v128.load(numbers + LOW_POLE);
  let high = v128.load(numbers + HIGH_POLE);
  let otherLow = v128.load(other + LOW_POLE);
  let otherHigh = v128.load(other + HIGH_POLE);
  const keptLow = v128.load(numbers + KEPT_LOW);
  const keptHigh = v128.load(numbers + KEPT_HIGH);
  const followLow = v128.load(numbers + FOLLOW_LOW);
  const followHigh = v128.load(numbers + FOLLOW_HIGH);
  const past0 = <usize>load<i32>(places);
  const mask0 = load<i32>(places, 4);
  const past1 = <usize>load<i32>(places, 12);
  const mask1 = load<i32>(places, 16);
  const past2 = <usize>load<i32>(places, 24);
  const mask2 = load<i32>(places, 28);
  const past3 = <usize>load<i32>(places, 36);
  const mask3 = load<i32>(places, 40);
  const back0 = at - load<i32>(places, 8);
  const back2 = at - load<i32>(places, 32);
  const back3 = at - load<i32>(places, 44);
  for (let n = 0; n < frames; n++) {
    const still = load<f64>(sample(past0, back0 + n, mask0));
    const moving = between(past1, mask1, at + n, from + slope * <f64>(since + n));
    const x = f64x2.replace_lane(f64x2.splat(still), 1, moving);
    const second = v128.load64_zero(sample(past2, back2 + n, mask2));
    const y = v128.load64_lane(sample(past3, back3 + n, mask3), second, 1);
    low = followed(low, x, keptLow, followLow);
    high = followed(high, x, keptHigh, followHigh);
    otherLow = followed(otherLow, y, keptLow, followLow);
    otherHigh = followed(otherHigh, y, keptHigh, followHigh);
    const one = filtered(numbers, x, low, high);
    const two = filtered(other, y, otherLow, otherHigh);
    const place = <usize>n * PAIR;
    v128.store(lanes + place, one);
    v128.store(lanes + MOST * PAIR + place, two);
    const heard = f64x2.add(v128.load(out + place), f64x2.mul(v128.load(numbers + HEARD), one));
    v128.store(out + place, f64x2.add(heard, f64x2.mul(v128.load(other + HEARD), two)));
  }
  v128.store(numbers + LOW_POLE, low);
  v128.store(numbers + HIGH_POLE, high);
  v128.store(other + LOW_POLE, otherLow);
  v128.store(other + HIGH_POLE, otherHigh);
}

/** Sum and difference of two lines. */
@inline
function crossed(pair: v128): v128 {
  const first = f64x2.splat(f64x2.extract_lane(pair, 0));
  const second = f64x2.splat(f64x2.extract_lane(pair, 1));
  const signs = f64x2.replace_lane(f64x2.splat(1), 1, -1);
  return f64x2.add(first, f64x2.mul(signs, second));
}

@inline
function keepPair(numbers: usize, places: usize, pair: i32, value: v128, fed: v128, now: i32, own: v128): void {
  const place = places + <usize>(2 * pair) * PLACE;
  const gain = v128.load(numbers + <usize>pair * STRIDE + FED);
  const kept = f64x2.add(f64x2.mul(own, value), f64x2.mul(gain, fed));
  v128.store64_lane(sample(<usize>load<i32>(place), now, load<i32>(place, 4)), kept, 0);
  v128.store64_lane(sample(<usize>load<i32>(place, 12), now, load<i32>(place, 16)), kept, 1);
}

/** All lines are mixed with each other without loss, and fed. @returns 1 where one is louder than a value */
function mixAndFeed(
  numbers: usize,
  places: usize,
  lanes: usize,
  fed: usize,
  at: i32,
  frames: i32,
  ended: f64,
  mixGain: f64,
): i32 {
  const own = f64x2.splat(mixGain);
  const limit = f64x2.splat(ended);
  let loud = f64x2.splat(0);
  for (let n = 0; n < frames; n++) {
    const at0 = lanes + <usize>n * PAIR;
    const c0 = crossed(v128.load(at0));
    const c1 = crossed(v128.load(at0 + MOST * PAIR));
    const c2 = crossed(v128.load(at0 + 2 * MOST * PAIR));
    const c3 = crossed(v128.load(at0 + 3 * MOST * PAIR));
    const c4 = crossed(v128.load(at0 + 4 * MOST * PAIR));
    const c5 = crossed(v128.load(at0 + 5 * MOST * PAIR));
    const c6 = crossed(v128.load(at0 + 6 * MOST * PAIR));
    const c7 = crossed(v128.load(at0 + 7 * MOST * PAIR));
    const now = at + n;
    const input = v128.load(fed + <usize>n * PAIR);
    loud = v128.or(loud, four(numbers, places, 0, f64x2.add(c0, c1), f64x2.add(c2, c3), f64x2.add(c4, c5), f64x2.add(c6, c7), input, now, own, limit));
    loud = v128.or(loud, four(numbers, places, 1, f64x2.sub(c0, c1), f64x2.sub(c2, c3), f64x2.sub(c4, c5), f64x2.sub(c6, c7), input, now, own, limit));
  }
  return i32(v128.any_true(loud));
}

/** The second step of the mix for every second pair of lines. @returns where one is louder than a value */
@inline
function four(
  numbers: usize,
  places: usize,
  pair: i32,
  a: v128,
  b: v128,
  c: v128,
  d: v128,
  fed: v128,
  now: i32,
  own: v128,
  limit: v128,
): v128 {
  const ab = f64x2.add(a, b);
  const aNotB = f64x2.sub(a, b);
  const cd = f64x2.add(c, d);
  const cNotD = f64x2.sub(c, d);
  const first = f64x2.add(ab, cd);
  const second = f64x2.add(aNotB, cNotD);
  const third = f64x2.sub(ab, cd);
  const fourth = f64x2.sub(aNotB, cNotD);
  keepPair(numbers, places, pair, first, fed, now, own);
  keepPair(numbers, places, pair + 2, second, fed, now, own);
  keepPair(numbers, places, pair + 4, third, fed, now, own);
  keepPair(numbers, places, pair + 6, fourth, fed, now, own);
  const most = f64x2.pmax(f64x2.pmax(f64x2.abs(first), f64x2.abs(second)), f64x2.pmax(f64x2.abs(third), f64x2.abs(fourth)));
  return f64x2.gt(most, limit);
}

/**
 * One step of the network, in which the lines that move go straight.
 * @param numbers of each two lines, as `reverb-memory.ts` lays them out
 * @param places of each line
 * @param moves of each line that moves: how late it comes out where the piece begins, and its slope
 * @param since frames of the piece that are over
 * @param lanes room for all lines
 * @param fed pairs of what comes in @param out pairs of what is heard: written
 * @returns 1 where one of the lines is louder than `ended`
 */
export function runLines(
  numbers: usize,
  places: usize,
  moves: usize,
  since: i32,
  at: i32,
  frames: i32,
  lanes: usize,
  fed: usize,
  out: usize,
  ended: f64,
  mixGain: f64,
): i32 {
  memory.fill(out, 0, <usize>frames * PAIR);
  for (let pair = 0; pair < PAIRS; pair += 2)
    readFour(
      numbers + <usize>pair * STRIDE,
      places + <usize>(2 * pair) * PLACE,
      load<f64>(moves + <usize>pair * 8),
      load<f64>(moves + <usize>pair * 8, 8),
      since,
      at,
      frames,
      lanes + <usize>pair * MOST * PAIR,
      out,
    );
  return mixAndFeed(numbers, places, lanes, fed, at, frames, ended, mixGain);
}

/**
 * All-passes of Schroeder, one behind the other on each side, in place.
 * @param signal pairs of samples
 * @param places of the left and the right one of each step: where its past lies, its length, where it stands
 */
export function scatter(signal: usize, places: usize, steps: i32, amount: f64, frames: i32): void {
  const amounts = f64x2.splat(amount);
  for (let step = 0; step < steps; step++, places += 2 * PLACE) {
    const left = <usize>load<i32>(places);
    const leftLength = load<i32>(places, 4);
    let leftAt = load<i32>(places, 8);
    const right = <usize>load<i32>(places, 12);
    const rightLength = load<i32>(places, 16);
    let rightAt = load<i32>(places, 20);
    const end = signal + <usize>frames * PAIR;
    for (let p = signal; p < end; p += PAIR) {
      const one = left + <usize>leftAt * 8;
      const other = right + <usize>rightAt * 8;
      const delayed = v128.load64_lane(other, v128.load64_zero(one), 1);
      const inside = f64x2.add(v128.load(p), f64x2.mul(amounts, delayed));
      v128.store64_lane(one, inside, 0);
      v128.store64_lane(other, inside, 1);
      v128.store(p, f64x2.sub(delayed, f64x2.mul(amounts, inside)));
      if (++leftAt === leftLength) leftAt = 0;
      if (++rightAt === rightLength) rightAt = 0;
    }
    store<i32>(places, leftAt, 8);
    store<i32>(places, rightAt, 20);
  }
}
