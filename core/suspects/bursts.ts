import { FrameAnalyser, percentile, toLevelDb } from './frames';
import { toldMoments, type FoundSuspect } from './suspect';

/** Where pops and sibilants lie, Hz. */
const POP_HIGH_HZ = 110;
const HISSING_LOW_HZ = 4500;
const HISSING_HIGH_HZ = 11000;
const SOUNDING_RANGE_DB = 50;
const SILENCE_DB = -85;
const FEWEST_FRAMES = 120;
const FEWEST_BURSTS = 3;
/** Longer than this is no burst but a sound, seconds. */
const LONGEST_POP = 0.45;
const LONGEST_SIBILANT = 0.4;
/** Shorter is a knock. */
const SHORTEST_SIBILANT = 0.06;
/** Most that the lows may have of what is played, dB; how far a pop stands over the ground, and how far below the loudest moments at most, dB. */
const MOST_LOW_SHARE_DB = -12;
const POP_OVER_GROUND_DB = 15;
const POP_RANGE_DB = 32;
/** A pop is lows above all: they have at least this share of its moment, dB. */
const LEAST_POP_SHARE_DB = -8;
/** A pop is softer than what is played by this, dB; where that has no lows at all, as with bleed of another instrument, less will do. */
const SOFTER_DB = 7;
const NO_LOWS_DB = -25;
const SOFTER_WITHOUT_LOWS_DB = 2.5;
/** Pops are rare: what comes more often than so many times in a second may be played, and is from the second on. */
const RARE_PER_SECOND = 0.35;
const MOST_PER_SECOND = 1;
/** How loud the sibilants of a voice are where nobody minds them, beside its loud moments, dB; and how much louder they must be, dB. */
const USUAL_SIBILANTS_DB = -10;
const LEAST_OVER_USUAL_DB = 2.5;
/** The level of a hiss as a band that gives way follows it with 2 ms, beside that in these windows, which a full-scale sine has 0 dB in: measured on noise. */
const FOLLOWED_DB = 3;
/** What is played: so many of the moments that are loudest above the lows. */
const PLAYED_SHARE = 0.9;

interface Moment {
  totalDb: number;
  lowDb: number;
  /** All but the lows. */
  aboveDb: number;
  highDb: number;
  /** Power-weighted middle of what hisses, Hz. */
  highHz: number;
}

interface Burst {
  frames: number;
  /** When it begins. */
  seconds: number;
  /** Level of its strongest moment, dB. */
  levelDb: number;
  frequencyHz: number;
}

const momentsOf = (bursts: readonly Burst[]) =>
  toldMoments(bursts.map(({ seconds, levelDb }) => ({ seconds, weight: levelDb })));

function sumOf(values: Float64Array, from: number, beyond: number): number {
  let sum = 0;
  for (let k = from; k < beyond; k++) sum += values[k];
  return sum;
}

/** Finds what bursts out of a recording for a moment: pops and thumps in the lows, sibilants in the highs. Windows of 43 ms at 48 kHz. */
export class BurstFinder {
  private readonly frames: FrameAnalyser;
  private readonly moments: Moment[] = [];
  private readonly seconds: number;

  constructor(rateHz: number) {
    const size = rateHz > 100000 ? 8192 : rateHz > 50000 ? 4096 : 2048;
    const hop = size / 2;
    this.seconds = hop / rateHz;
    const binHz = rateHz / size;
    const popEnd = Math.round(POP_HIGH_HZ / binHz);
    // At a low rate there is less to hiss, or nothing.
    const from = Math.min(size / 2 + 1, Math.round(HISSING_LOW_HZ / binHz));
    const to = Math.min(size / 2, Math.round(HISSING_HIGH_HZ / binHz));
    this.frames = new FrameAnalyser(size, hop, (power) => {
      const low = sumOf(power, 1, popEnd + 1);
      const high = sumOf(power, from, to + 1);
      const total = low + sumOf(power, popEnd + 1, from) + high + sumOf(power, to + 1, power.length);
      let moment = 0;
      for (let k = from; k <= to; k++) moment += power[k] * k * binHz;
      this.moments.push({
        totalDb: toLevelDb(total),
        lowDb: toLevelDb(low),
        aboveDb: toLevelDb(total - low),
        highDb: toLevelDb(high),
        highHz: moment / (high + 1e-20),
      });
    });
  }

  push(samples: readonly ArrayLike<number>[]): void {
    this.frames.push(samples);
  }

  finish(): FoundSuspect[] {
    this.frames.finish();
    const { moments } = this;
    const loudest = moments.reduce((most, { totalDb }) => Math.max(most, totalDb), -200);
    const sounding = moments.filter(({ totalDb }) => totalDb > Math.max(SILENCE_DB, loudest - SOUNDING_RANGE_DB));
    if (sounding.length < FEWEST_FRAMES) return [];
    return [...this.pops(sounding), ...this.sibilance(sounding)];
  }

  /** Runs of moments, each judged by itself. */
  private bursts(
    isIn: (moment: Moment) => boolean,
    levelOf: (moment: Moment) => number,
    [shortest, longest]: readonly [number, number],
  ): Burst[] {
    const found: Burst[] = [];
    let run: Moment[] = [];
    const end = (until: number) => {
      const length = run.length * this.seconds;
      if (length >= shortest && run.length > 0 && length <= longest) {
        const top = run.reduce((best, block) => (levelOf(block) > levelOf(best) ? block : best));
        const seconds = (until - run.length) * this.seconds;
        found.push({ frames: run.length, seconds, levelDb: levelOf(top), frequencyHz: top.highHz });
      }
      run = [];
    };
    for (const [at, moment] of this.moments.entries()) {
      if (isIn(moment)) run.push(moment);
      else end(at);
    }
    end(this.moments.length);
    return found;
  }

  private typical(moments: readonly Moment[], value: (moment: Moment) => number, share = 0.5): number {
    return percentile(
      moments.map(value).sort((a, b) => a - b),
      share,
    );
  }

  /** Lows that leap out of a recording whose loudest moments have hardly any; what is as loud as those is played. */
  private pops(sounding: readonly Moment[]): FoundSuspect[] {
    const loudest = this.typical(sounding, ({ totalDb }) => totalDb, 0.995);
    const edgeAbove = this.typical(sounding, ({ aboveDb }) => aboveDb, PLAYED_SHARE);
    const played = sounding.filter(({ aboveDb }) => aboveDb >= edgeAbove);
    const lowShare = this.typical(played, ({ lowDb, totalDb }) => lowDb - totalDb);
    if (lowShare > MOST_LOW_SHARE_DB) return [];
    const ground = this.typical(sounding, ({ lowDb }) => lowDb);
    const edge = Math.max(ground + POP_OVER_GROUND_DB, loudest - POP_RANGE_DB);
    const bursts = this.bursts(
      ({ lowDb, totalDb }) => lowDb > edge && lowDb > totalDb + LEAST_POP_SHARE_DB,
      ({ lowDb }) => lowDb,
      [0, LONGEST_POP],
    );
    const perSecond = bursts.length / (this.moments.length * this.seconds);
    if (bursts.length < FEWEST_BURSTS || perSecond > MOST_PER_SECOND) return [];
    const rarity = Math.min(1, (1.1 * MOST_PER_SECOND - perSecond) / (1.1 * MOST_PER_SECOND - RARE_PER_SECOND));
    const levels = bursts.map(({ levelDb }) => levelDb).sort((a, b) => a - b);
    const softer = lowShare < NO_LOWS_DB ? SOFTER_WITHOUT_LOWS_DB : SOFTER_DB;
    if (percentile(levels, 0.5) > loudest - softer) return [];
    const prominenceDb = percentile(levels, 0.5) - ground;
    return [
      {
        kind: 'pops',
        frequencyHz: 60,
        lowHz: 30,
        highHz: POP_HIGH_HZ,
        prominenceDb,
        timeShare: bursts.reduce((sum, { frames }) => sum + frames, 0) / sounding.length,
        ...momentsOf(bursts),
        sureness: rarity * Math.min(0.95, 0.4 + prominenceDb / 60 + Math.min(0.2, bursts.length / 50)),
      },
    ];
  }

  /** Highs that take over for a moment in a recording that is mostly low. */
  private sibilance(sounding: readonly Moment[]): FoundSuspect[] {
    const highShare = this.typical(sounding, ({ highDb, totalDb }) => highDb - totalDb);
    if (highShare > -18) return [];
    const hisses = ({ highDb, totalDb }: Moment) => highDb > totalDb - 3;
    const sung = sounding.filter((moment) => !hisses(moment));
    const loud = this.typical(sung, ({ totalDb }) => totalDb, 0.9);
    const bursts = this.bursts(
      (moment) => hisses(moment) && moment.highDb > loud - 18,
      ({ highDb }) => highDb,
      [SHORTEST_SIBILANT, LONGEST_SIBILANT],
    );
    if (bursts.length < FEWEST_BURSTS) return [];
    const levelDb = percentile(
      bursts.map((burst) => burst.levelDb).sort((a, b) => a - b),
      0.5,
    );
    const overUsualDb = levelDb - (loud + USUAL_SIBILANTS_DB);
    if (overUsualDb < LEAST_OVER_USUAL_DB) return [];
    const frequencyHz = percentile(
      bursts.map((burst) => burst.frequencyHz).sort((a, b) => a - b),
      0.5,
    );
    return [
      {
        kind: 'sibilance',
        frequencyHz,
        lowHz: frequencyHz * 0.8,
        highHz: frequencyHz * 1.25,
        prominenceDb: overUsualDb,
        followedDb: levelDb + FOLLOWED_DB,
        timeShare: bursts.reduce((sum, { frames }) => sum + frames, 0) / sounding.length,
        ...momentsOf(bursts),
        sureness: Math.min(0.9, 0.5 + (overUsualDb - LEAST_OVER_USUAL_DB) / 12),
      },
    ];
  }
}
