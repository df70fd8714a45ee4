import { FINE_BANDS, FINE_HZ, FINE_PER_OCTAVE, type FineSpectrum } from './fine-spectrum';
import { percentile } from './frames';
import { toldMoments, type FoundSuspect } from './suspect';

/** Where whistles are looked for, Hz. */
const FROM_HZ = 500;
const TO_HZ = 10000;
/** A tone is there where it stands so far over the middle of a third of an octave to either side, and over what is an eighth away, dB. */
const LEAST_PROMINENCE_DB = 12;
const NARROW_DB = 9;
const NARROW_BANDS = 3;
/** What is so far below the loudest moment is not heard, dB. */
const HEARD_RANGE_DB = 75;
/** It goes on where the next one is no farther than a band, after so many frames at most. */
const MOST_GAP = 2;
/** Shorter is too little to tell, seconds. */
const LEAST_SECONDS = 0.8;
/** In its first and last moments its level changes by no more than this, dB, and by no more than that mostly from frame to frame: a note begins or ends at once. */
const MOST_EDGE_DB = 8;
const EDGE_FRAMES = 4;
const MOST_STEP_DB = 4;
const CALM_SHARE = 0.8;
/** One that moves goes through so many bands, and turns no more often than at every second one of them. */
const LEAST_MOVED_BANDS = 2;
/** Lines that are no farther from it are the same one at another time. */
const SAME_BANDS = 10;
/** One that comes and goes swells: by so much, after its first moments too, until it is so far on its way; most of its times, and more than once. */
const LEAST_SWELL_DB = 2.5;
const LEAST_LATER_SWELL_DB = 0.7;
const SWELL_SHARES = [0.25, 0.8] as const;
const SWELLING_SHARE = 0.5;
const LEAST_TIMES = 2;
/** For so much of its time something else is at a whole ratio: then it is a partial of that. */
const PARTIAL_SHARE = 0.6;
/** Whistles that are more than these are what the recording is about. */
const MOST_WHISTLES = 3;
/** So much of the time it is there at least. */
const LEAST_TIME_SHARE = { moving: 0.1, swelling: 0.06, even: 0.25 };
/** One that stays is as loud each time that it is heard, dB. */
const MOST_APART_DB = 3;

/** A tone over some time. */
interface Line {
  firstFrame: number;
  /** By frame from the first on; where it was missed for a moment, what it was before. */
  bands: number[];
  levelsDb: number[];
  /** How far it stood over what was around it when it was seen first. */
  prominenceDb: number;
  /** How many frames it has not been seen for. */
  missed: number;
}

/** Ratios of neighbouring partials, and of the first ones, in bands. */
const PARTIALS = [
  ...new Set(
    [1 / 4, 1 / 3, 1 / 2, 2, 3, 4, ...[2, 3, 4, 5, 6].flatMap((n) => [n / (n + 1), (n + 1) / n])].map((ratio) =>
      Math.round(FINE_PER_OCTAVE * Math.log2(ratio)),
    ),
  ),
];

/** Nothing is louder two bands to either side. */
function isPeak(levels: ArrayLike<number>, band: number): boolean {
  for (let other = band - 2; other <= band + 2; other++) if (levels[other] > levels[band]) return false;
  return true;
}

/** Every tone of a moment, by its band. @param around the middle of what is around each band, dB */
function tonesIn(levels: ArrayLike<number>, around: Float32Array, leastDb: number): number[] {
  const found: number[] = [];
  for (let band = NARROW_BANDS; band < FINE_BANDS - NARROW_BANDS; band++) {
    const db = levels[band];
    if (db < leastDb || db - around[band] < LEAST_PROMINENCE_DB || !isPeak(levels, band)) continue;
    const beside = Math.max(levels[band - NARROW_BANDS], levels[band + NARROW_BANDS]);
    if (db - beside >= NARROW_DB) found.push(band);
  }
  return found;
}

const bandOf = (hz: number) => Math.round(FINE_PER_OCTAVE * Math.log2(hz / FINE_HZ[0]));

/** Tones of a recording that go on from moment to moment; and all tones of every moment. */
function linesOf(fine: FineSpectrum): { lines: Line[]; tones: ReadonlySet<number>[] } {
  const loudest = fine.present.reduce((most, frame) => Math.max(most, fine.totalDb(frame)), -200);
  const [first, last] = [bandOf(FROM_HZ), bandOf(TO_HZ)];
  const ended: Line[] = [];
  const tones: ReadonlySet<number>[] = [];
  let open: Line[] = [];
  for (let frame = 0; frame < fine.frameCount; frame++) {
    const levels = fine.levelsDb(frame);
    const around = fine.aroundDb(frame);
    const found = tonesIn(levels, around, loudest - HEARD_RANGE_DB);
    tones.push(new Set(found));
    const free = new Set(found.filter((band) => band >= first && band <= last));
    for (const line of open) {
      const from = line.bands[line.bands.length - 1];
      const next = [from, from - 1, from + 1].find((band) => free.has(band));
      line.bands.push(next ?? from);
      line.levelsDb.push(levels[next ?? from]);
      line.missed = next === undefined ? line.missed + 1 : 0;
      if (next !== undefined) free.delete(next);
    }
    ended.push(...open.filter(({ missed }) => missed > MOST_GAP));
    open = open.filter(({ missed }) => missed <= MOST_GAP);
    for (const band of free)
      open.push({
        firstFrame: frame,
        bands: [band],
        levelsDb: [levels[band]],
        prominenceDb: levels[band] - around[band],
        missed: 0,
      });
  }
  const lines = [...ended, ...open].map((line) => ({
    ...line,
    bands: line.bands.slice(0, line.bands.length - line.missed),
    levelsDb: line.levelsDb.slice(0, line.levelsDb.length - line.missed),
  }));
  return { lines, tones };
}

const spanOf = ({ bands }: Line) => Math.max(...bands) - Math.min(...bands);

/** Something else goes with it, at a whole ratio: it is a partial. */
function isPartial({ firstFrame, bands }: Line, tones: readonly ReadonlySet<number>[]): boolean {
  return PARTIALS.some((apart) => {
    const beside = bands.filter((band, i) =>
      [-1, 0, 1].some((off) => tones[firstFrame + i].has(band + apart + off)),
    ).length;
    return beside >= PARTIAL_SHARE * bands.length;
  });
}

const steps = (values: readonly number[]) => values.slice(1).map((value, i) => value - values[i]);

/** Its level hardly changes from moment to moment; what is played over it may hide it for some. */
const isCalm = ({ levelsDb }: Line) =>
  steps(levelsDb).filter((step) => Math.abs(step) <= MOST_STEP_DB).length >= CALM_SHARE * (levelsDb.length - 1);

/** It is there without a beginning and an end that are heard. */
function isEven({ levelsDb }: Line): boolean {
  const begins = Math.max(...levelsDb.slice(0, EDGE_FRAMES)) - levelsDb[0];
  const ends = Math.max(...levelsDb.slice(-EDGE_FRAMES)) - levelsDb[levelsDb.length - 1];
  return begins <= MOST_EDGE_DB && ends <= MOST_EDGE_DB;
}

function moves(line: Line): boolean {
  const moved = steps(line.bands).filter((step) => step !== 0);
  const turns = moved.filter((step, i) => i > 0 && step !== moved[i - 1]).length;
  return spanOf(line) >= LEAST_MOVED_BANDS && 2 * turns <= moved.length;
}

function swells({ levelsDb }: Line): boolean {
  const top = levelsDb.indexOf(Math.max(...levelsDb));
  const [from, to] = SWELL_SHARES.map((share) => share * levelsDb.length);
  return (
    top >= from &&
    top <= to &&
    levelsDb[top] - levelsDb[0] >= LEAST_SWELL_DB &&
    levelsDb[top] - levelsDb[EDGE_FRAMES] >= LEAST_LATER_SWELL_DB
  );
}

/** Lines that are one tone: those that lie near to the first, the longest, of them. */
function groupsOf(lines: readonly Line[], reach: number): Line[][] {
  const groups: Line[][] = [];
  for (const line of lines) {
    const group = groups.find(([{ bands }]) => Math.abs(middleOf(bands) - middleOf(line.bands)) <= reach);
    if (group) group.push(line);
    else groups.push([line]);
  }
  return groups;
}

const middleOf = (bands: readonly number[]) => [...bands].sort((a, b) => a - b)[bands.length >> 1];

/** Notes are played louder and softer. */
function isAsLoud(group: readonly Line[]): boolean {
  const levels = group
    .map(({ levelsDb }) =>
      percentile(
        [...levelsDb].sort((a, b) => a - b),
        0.5,
      ),
    )
    .sort((a, b) => a - b);
  return levels[levels.length - 1] - levels[0] <= MOST_APART_DB;
}

/**
 * Tones beside what is played that move while they sound, come and go, or stay though they are hidden for most of the time: feedback,
 * whistles of devices.
 * @param changes whether what is played does: else all of it stays
 */
export function whistles(fine: FineSpectrum, changes: boolean): FoundSuspect[] {
  const { lines, tones } = linesOf(fine);
  const smooth = lines
    .filter((line) => line.bands.length * fine.hopSeconds >= LEAST_SECONDS && isCalm(line) && !isPartial(line, tones))
    .sort((a, b) => b.bands.length - a.bands.length);
  const sounding = Math.max(1, fine.sounding.length);
  const shareOf = (group: readonly Line[]) =>
    Math.min(1, group.reduce((sum, { bands }) => sum + bands.length, 0) / sounding);
  const moving = groupsOf(
    smooth.filter((line) => moves(line) && isEven(line)),
    SAME_BANDS,
  )
    .map((group) => {
      const others = smooth.filter(
        (line) => !group.includes(line) && Math.abs(middleOf(line.bands) - middleOf(group[0].bands)) <= SAME_BANDS,
      );
      return [...group, ...others];
    })
    .filter((group) => shareOf(group) >= LEAST_TIME_SHARE.moving);
  const staying = groupsOf(
    smooth.filter((line) => spanOf(line) <= 1 && !moving.some((group) => group.includes(line))),
    1,
  );
  const swelling = staying.filter((group) => {
    const times = group.filter(swells).length;
    return times >= Math.max(LEAST_TIMES, SWELLING_SHARE * group.length) && shareOf(group) >= LEAST_TIME_SHARE.swelling;
  });
  const even = staying
    .filter((group) => changes && !swelling.includes(group))
    .map((group) => group.filter(isEven))
    .filter((group) => group.length > 0 && shareOf(group) >= LEAST_TIME_SHARE.even && isAsLoud(group));
  // Several that stay are partials of what is played.
  const alone = even.length === 1 ? even : [];
  const found = [...moving, ...swelling, ...alone].map((group): FoundSuspect => {
    const bands = group.flatMap((line) => line.bands).sort((a, b) => a - b);
    const half = 2 ** (0.5 / FINE_PER_OCTAVE);
    const timeShare = shareOf(group);
    const times = group.map(({ firstFrame, bands: { length } }) => ({
      seconds: firstFrame * fine.hopSeconds,
      weight: length,
    }));
    const stays = even.includes(group);
    return {
      // One that stays is what a resonance is to the ear.
      kind: stays ? 'resonance' : 'whistle',
      ...(!stays && toldMoments(times)),
      frequencyHz: FINE_HZ[bands[bands.length >> 1]],
      lowHz: FINE_HZ[bands[0]] / half,
      highHz: FINE_HZ[bands[bands.length - 1]] * half,
      prominenceDb: group.reduce((sum, line) => sum + line.prominenceDb, 0) / group.length,
      timeShare,
      sureness: Math.min(0.9, 0.4 + timeShare),
    };
  });
  return found.length > MOST_WHISTLES ? [] : found;
}
