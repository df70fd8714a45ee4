import type { Mode, Suspect, SuspectPicture } from '../suspect';
import { describer } from './describe';
import { bandAt, bandHz } from './grid';
import { evidence, fittedBell } from './net';
import { PARTIAL_SHARE, ProfileFinder, USUAL } from './profiles';
import { FEWEST_MODES, roomModes } from './room-modes';

/** Where resonances are looked for, Hz; families of them from the first band on. */
const FROM_HZ = 90;
const TO_HZ = 9200;
/** So much of a recording is looked at, in stretches of this length, seconds: a resonance is there all the time. */
const LOOKED_AT_SECONDS = 28;
const STRETCH_SECONDS = 7;
/** Shorter is too little to tell what stays from what is played, seconds. */
const LEAST_SECONDS = 4;
/** What is softer than this is silence, mean power. */
const SILENCE = 1e-8;
/** Two resonances are no nearer to each other than this, bands. */
const APART = 5;
const MOST = 8;

/** What the evidence must be at least, and what sureness it means: set on recordings, see docs/suspects.md. */
export const LEAST_EVIDENCE = 1;
const CALIBRATION = { slope: 0.7, middle: 3.4 } as const;

/** How sure evidence makes one, 0 to 1: the share of findings with as much of it that are right. */
export const surenessOf = (evidence: number): number =>
  1 / (1 + Math.exp(-CALIBRATION.slope * (evidence - CALIBRATION.middle)));

/** A mode that would be named without its family. */
export const isSureAlone = ({ sureness }: Mode): boolean => sureness >= surenessOf(LEAST_EVIDENCE);

/** Where much looks like a resonance, each is less likely to be one: so much of what speaks for the next best ones is taken off. */
const OTHERS_SHARE = 0.4;
const OTHERS = 4;
const LEAST_OF_OTHERS = -2;

/** A resonance as it is found. */
export interface FoundResonance {
  frequencyHz: number;
  q: number;
  gainDb: number;
  /** Log odds as the networks see them, less what speaks for others. */
  evidence: number;
  picture: SuspectPicture;
}

/** Finds resonances, of rooms, instruments and microphones: what lifts one range whatever is played. */
export class ResonanceFinder {
  private readonly profiles: ProfileFinder;
  private readonly stretch: Float32Array[];
  private channels = 1;
  private filled = 0;
  private seconds = 0;
  private skip = 0;
  private readonly skipped: number;

  /** @param lengthFrames of the whole recording: of a long one some stretches are looked at */
  constructor(
    private readonly rateHz: number,
    lengthFrames: number,
  ) {
    this.profiles = new ProfileFinder(rateHz);
    const length = Math.round(STRETCH_SECONDS * rateHz);
    this.stretch = [new Float32Array(length), new Float32Array(length)];
    const stretches = LOOKED_AT_SECONDS / STRETCH_SECONDS;
    this.skipped = Math.max(0, Math.floor((lengthFrames - LOOKED_AT_SECONDS * rateHz) / stretches));
  }

  /** @param samples one array per channel, equal lengths */
  push(samples: readonly ArrayLike<number>[]): void {
    const [left, right] = samples;
    this.channels = samples.length;
    for (let at = 0; at < left.length && this.seconds < LOOKED_AT_SECONDS - 0.01;) {
      if (this.skip > 0) {
        const passed = Math.min(this.skip, left.length - at);
        this.skip -= passed;
        at += passed;
        continue;
      }
      const run = Math.min(left.length - at, this.stretch[0].length - this.filled);
      for (let n = 0; n < run; n++) {
        this.stretch[0][this.filled + n] = left[at + n];
        if (right) this.stretch[1][this.filled + n] = right[at + n];
      }
      this.filled += run;
      at += run;
      if (this.filled === this.stretch[0].length) this.look();
    }
  }

  private look(): void {
    const heard = this.stretch.slice(0, this.channels).map((side) => side.subarray(0, this.filled));
    const power = heard[0].reduce((sum, value) => sum + value * value, 0) / Math.max(1, this.filled);
    this.filled = 0;
    // A stretch of silence tells nothing: the next one is looked at in its place.
    if (power < SILENCE) return;
    this.profiles.push(heard);
    this.seconds += heard[0].length / this.rateHz;
    this.skip = this.skipped;
  }

  /** What speaks for a resonance in each band, and what a place is like; null where there is too little to tell. */
  private judge(): Judged | null {
    if (this.filled > 0 && this.seconds < LOOKED_AT_SECONDS - 0.01) this.look();
    if (this.seconds < LEAST_SECONDS) return null;
    const rows = this.profiles.finish();
    const describe = describer(rows);
    const odds = Float64Array.from({ length: Math.floor(bandAt(TO_HZ)) }, (_, band) => evidence(describe(band)));
    return { rows, describe, odds };
  }

  /** All that may be one, what most speaks for first. */
  candidates(judged = this.judge()): FoundResonance[] {
    if (!judged) return [];
    const { rows, describe, odds } = judged;
    const first = Math.floor(bandAt(FROM_HZ));
    const found = odds.subarray(first);
    const order = Array.from(found.keys()).sort((a, b) => found[b] - found[a]);
    const chosen: number[] = [];
    for (const i of order) {
      if (chosen.length >= MOST || found[i] < -2) break;
      if (chosen.every((other) => Math.abs(other - i) >= APART)) chosen.push(i);
    }
    const all = chosen.map((i) => {
      const others = chosen.filter((other) => other !== i).map((other) => Math.max(LEAST_OF_OTHERS, found[other]));
      const next = [...others.slice(0, OTHERS), ...new Array<number>(OTHERS).fill(LEAST_OF_OTHERS)].slice(0, OTHERS);
      const beside = next.reduce((sum, value) => sum + value, 0) / OTHERS;
      const { q, gainDb } = fittedBell(describe(first + i));
      return {
        frequencyHz: bandHz(first + centreAround(found, i)),
        q,
        gainDb,
        evidence: found[i] - OTHERS_SHARE * beside,
        picture: pictureOf(rows, first + i, first + i),
      };
    });
    return all.sort((a, b) => b.evidence - a.evidence);
  }

  /**
   * @param isNamed true for what is found as something else
   * @returns those that are sure enough; a family of modes takes the place of what it holds
   */
  finish(isNamed: (place: Pick<Suspect, 'frequencyHz'>) => boolean = () => false): Suspect[] {
    const judged = this.judge();
    const lone = this.candidates(judged).filter((found) => !isNamed(found));
    const modes = judged && familyIn(judged, lone, isNamed);
    const single = lone
      .filter((found) => found.evidence >= LEAST_EVIDENCE && !modes?.modes?.some((mode) => areNear(mode, found)))
      .map(({ frequencyHz, q, gainDb, evidence: odds, picture }): Suspect => ({
        kind: 'resonance',
        picture,
        frequencyHz,
        lowHz: frequencyHz * 2 ** (-1 / (2 * q * Math.LN2)),
        highHz: frequencyHz * 2 ** (1 / (2 * q * Math.LN2)),
        prominenceDb: gainDb,
        timeShare: 1,
        sureness: surenessOf(odds),
      }));
    return modes ? [modes, ...single] : single;
  }
}

/** A recording's profiles, what speaks for a resonance by band, and the figures of a place. */
interface Judged {
  rows: readonly Float32Array[];
  describe: (band: number) => Float32Array;
  odds: Float64Array;
}

const areNear = (first: Pick<FoundResonance, 'frequencyHz'>, second: Pick<FoundResonance, 'frequencyHz'>) =>
  Math.abs(bandAt(first.frequencyHz) - bandAt(second.frequencyHz)) < APART;

/**
 * The modes of the room that a recording was made in, as far as they are heard.
 * @param lone what may be a resonance by itself
 */
function familyIn(
  { rows, describe, odds }: Judged,
  lone: readonly FoundResonance[],
  isNamed: (place: Pick<Suspect, 'frequencyHz'>) => boolean,
): Suspect | null {
  const family = roomModes(odds, rows[PARTIAL_SHARE]);
  const bands = family?.bands.filter((band) => !isNamed({ frequencyHz: bandHz(band) })) ?? [];
  if (!family || bands.length < FEWEST_MODES) return null;
  const { sureness } = family;
  const [lowest, highest] = [bands[0], bands[bands.length - 1]];
  const modes = bands.map((band) => {
    const { q, gainDb } = fittedBell(describe(band));
    const mode = { frequencyHz: bandHz(centreAround(odds, band)), q, gainDb };
    return { ...mode, sureness: surenessOf(lone.find((found) => areNear(found, mode))?.evidence ?? odds[band]) };
  });
  const [lowHz, highHz] = [bandHz(lowest - 0.5), bandHz(highest + 0.5)];
  return {
    kind: 'modes',
    picture: pictureOf(rows, lowest, highest),
    frequencyHz: Math.sqrt(lowHz * highHz),
    lowHz,
    highHz,
    prominenceDb: Math.max(...modes.map(({ gainDb }) => gainDb)),
    timeShare: 1,
    sureness,
    modes,
  };
}

/** The middle of what speaks for a resonance around a place. */
function centreAround(found: Float64Array, at: number): number {
  let [sum, weighted] = [0, 0];
  for (let i = Math.max(0, at - 3); i <= Math.min(found.length - 1, at + 3); i++) {
    const weight = 1 / (1 + Math.exp(-found[i]));
    sum += weight;
    weighted += weight * i;
  }
  return weighted / sum;
}

/** Bands to either side of a resonance that its picture shows. */
const PICTURED = 40;
const [SOFT, LOUD] = [0, 4];

/** What stands there in soft, usual and loud moments, over what is around. */
function pictureOf(rows: readonly Float32Array[], from: number, to: number): SuspectPicture {
  const count = to - from + 2 * PICTURED + 1;
  const bands = Array.from({ length: count }, (_, i) => from - PICTURED + i).filter((band) => band >= 0);
  const levels = (row: number) => bands.map((band) => Number(rows[row][band].toFixed(1)));
  return {
    frequenciesHz: bands.map((band) => Number(bandHz(band).toPrecision(4))),
    softDb: levels(SOFT),
    middleDb: levels(USUAL),
    loudDb: levels(LOUD),
    isRelative: true,
  };
}
