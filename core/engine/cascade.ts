import type { StateVariable } from './state-variable';

/** A section of a compiled equalizer: its place in the song keeps its identity while its coefficients move. */
export interface KeyedSection extends StateVariable {
  key: string;
}

/**
 * The equalizer's kernel: a cascade of state-variable sections over one or two channels of 64-bit samples.
 *
 * A change of coefficients is eased: every coefficient follows its target through three equal one-pole low-passes
 * (time constant {@link EASE_SECONDS}), so its path is smooth to the second derivative and its side effects fall away fast.
 * Sections are matched by key: one that is new starts as a wire, listens for 16 ms until its integrators have caught up with
 * the signal and then moves in; one that is gone becomes a wire before it is dropped. So switching, adding, removing and changing type or order all sound as one smooth move.
 *
 * `process` allocates nothing.
 */
const NAMES = ['g', 'k', 'm0', 'm1', 'm2'] as const;
const PARAMETERS = NAMES.length;
/** What a section that is leaving becomes: its input. */
const WIRE = { m0: 1, m1: 0, m2: 0 };
const STAGES = 3;
const PER_SECTION = PARAMETERS * STAGES;
const STATES = 4; // two integrators in two channels
const EASE_SECONDS = 0.006;
const WARM_UP_SECONDS = 0.016;
const SETTLED = 1e-8;
const SILENCE = 1e-30;

type Samples = Float64Array;

export class Cascade {
  private count = 0;
  private keys: string[] = [];
  private leaving: boolean[] = [];
  private easing: Uint8Array = new Uint8Array(0);
  /** Frames that a new section still listens before it moves. */
  private warmUp: Int32Array = new Int32Array(0);
  private targets = new Float64Array(0);
  private eased = new Float64Array(0);
  private states = new Float64Array(0);
  private readonly follow: number;

  constructor(private readonly rateHz: number) {
    this.follow = 1 - Math.exp(-1 / (EASE_SECONDS * rateHz));
  }

  /** How many sections run, those that are leaving included. */
  get length(): number {
    return this.count;
  }

  /** True while any coefficient is still on its way. */
  get isEasing(): boolean {
    for (let i = 0; i < this.count; i++) if (this.easing[i]) return true;
    return false;
  }

  /** The sections to run from now on. @param immediately true to jump there: for an engine that has not played yet */
  setTarget(sections: readonly KeyedSection[], immediately = false): void {
    if (immediately) this.count = 0;
    const wanted = new Map(sections.map((section) => [section.key, section]));
    for (let i = 0; i < this.count; i++) {
      const section = wanted.get(this.keys[i]);
      wanted.delete(this.keys[i]);
      this.leaving[i] = !section;
      if (this.aim(i, section ?? { ...WIRE, g: this.targets[i * PARAMETERS], k: this.targets[i * PARAMETERS + 1] }))
        this.easing[i] = 1;
    }
    this.reserve(this.count + wanted.size);
    for (const section of wanted.values()) this.append(section, immediately);
  }

  /** Forgets the past of the signal: for a jump in a silent stream. */
  reset(): void {
    this.states.fill(0);
  }

  /** Sets the target of a section. @returns false when it was that already */
  private aim(i: number, section: StateVariable): boolean {
    let isNew = false;
    const at = i * PARAMETERS;
    NAMES.forEach((name, c) => {
      isNew ||= this.targets[at + c] !== section[name];
      this.targets[at + c] = section[name];
    });
    return isNew;
  }

  private append(section: KeyedSection, immediately: boolean): void {
    const i = this.count++;
    this.keys[i] = section.key;
    this.leaving[i] = false;
    this.aim(i, section);
    const { g, k } = section;
    const start = immediately ? [g, k, section.m0, section.m1, section.m2] : [g, k, 1, 0, 0];
    for (let stage = 0; stage < STAGES; stage++) this.eased.set(start, i * PER_SECTION + stage * PARAMETERS);
    this.states.fill(0, i * STATES, (i + 1) * STATES);
    this.easing[i] = immediately ? 0 : 1;
    this.warmUp[i] = immediately ? 0 : Math.round(WARM_UP_SECONDS * this.rateHz);
  }

  private reserve(count: number): void {
    if (this.easing.length >= count) return;
    const grown = Math.max(8, count * 2);
    const grow = (old: Float64Array, per: number) => {
      const next = new Float64Array(grown * per);
      next.set(old);
      return next;
    };
    const easing = new Uint8Array(grown);
    easing.set(this.easing);
    this.easing = easing;
    const warmUp = new Int32Array(grown);
    warmUp.set(this.warmUp);
    this.warmUp = warmUp;
    this.targets = grow(this.targets, PARAMETERS);
    this.eased = grow(this.eased, PER_SECTION);
    this.states = grow(this.states, STATES);
  }

  /**
   * Runs the cascade in place.
   * @param left samples, at least `frames` of them
   * @param right the second channel, or null for mono
   */
  process(left: Samples, right: Samples | null, frames: number): void {
    for (let i = 0; i < this.count; i++) {
      if (this.easing[i] && this.warmUp[i] <= 0) {
        this.processEasing(i, left, right, frames);
        this.settle(i);
      } else if (right) this.processStereo(i, left, right, frames);
      else this.processMono(i, left, frames);
      this.warmUp[i] -= this.warmUp[i] > 0 ? frames : 0;
      this.flush(i);
    }
    this.dropWires();
  }

  private processMono(i: number, samples: Samples, frames: number): void {
    const p = i * PER_SECTION + (STAGES - 1) * PARAMETERS;
    const s = i * STATES;
    const eased = this.eased;
    const states = this.states;
    const g = eased[p];
    const m0 = eased[p + 2];
    const m1 = eased[p + 3];
    const m2 = eased[p + 4];
    const a1 = 1 / (1 + g * (g + eased[p + 1]));
    const a2 = g * a1;
    const a3 = g * a2;
    let s1 = states[s];
    let s2 = states[s + 1];
    for (let n = 0; n < frames; n++) {
      const x = samples[n];
      const v3 = x - s2;
      const v1 = a1 * s1 + a2 * v3;
      const v2 = s2 + a2 * s1 + a3 * v3;
      s1 = 2 * v1 - s1;
      s2 = 2 * v2 - s2;
      samples[n] = m0 * x + m1 * v1 + m2 * v2;
    }
    states[s] = s1;
    states[s + 1] = s2;
  }

  /** Two channels in one loop: two independent chains of dependencies keep the processor busy. */
  private processStereo(i: number, left: Samples, right: Samples, frames: number): void {
    const p = i * PER_SECTION + (STAGES - 1) * PARAMETERS;
    const s = i * STATES;
    const eased = this.eased;
    const states = this.states;
    const g = eased[p];
    const m0 = eased[p + 2];
    const m1 = eased[p + 3];
    const m2 = eased[p + 4];
    const a1 = 1 / (1 + g * (g + eased[p + 1]));
    const a2 = g * a1;
    const a3 = g * a2;
    let l1 = states[s];
    let l2 = states[s + 1];
    let r1 = states[s + 2];
    let r2 = states[s + 3];
    for (let n = 0; n < frames; n++) {
      const xl = left[n];
      const xr = right[n];
      const l3 = xl - l2;
      const r3 = xr - r2;
      const lv1 = a1 * l1 + a2 * l3;
      const rv1 = a1 * r1 + a2 * r3;
      const lv2 = l2 + a2 * l1 + a3 * l3;
      const rv2 = r2 + a2 * r1 + a3 * r3;
      l1 = 2 * lv1 - l1;
      r1 = 2 * rv1 - r1;
      l2 = 2 * lv2 - l2;
      r2 = 2 * rv2 - r2;
      left[n] = m0 * xl + m1 * lv1 + m2 * lv2;
      right[n] = m0 * xr + m1 * rv1 + m2 * rv2;
    }
    states[s] = l1;
    states[s + 1] = l2;
    states[s + 2] = r1;
    states[s + 3] = r2;
  }

  /** The slow path, sample by sample, while the coefficients of this section move. */
  private processEasing(i: number, left: Samples, right: Samples | null, frames: number): void {
    const { eased, targets, states, follow } = this;
    const t = i * PARAMETERS;
    const p = i * PER_SECTION;
    const last = p + (STAGES - 1) * PARAMETERS;
    const s = i * STATES;
    for (let n = 0; n < frames; n++) {
      for (let c = 0; c < PARAMETERS; c++) {
        let value = targets[t + c];
        for (let at = p + c; at <= last + c; at += PARAMETERS) {
          eased[at] += follow * (value - eased[at]);
          value = eased[at];
        }
      }
      const g = eased[last];
      const a1 = 1 / (1 + g * (g + eased[last + 1]));
      const a2 = g * a1;
      const a3 = g * a2;
      for (let channel = 0; channel < (right ? 2 : 1); channel++) {
        const samples = channel === 0 ? left : right!;
        const at = s + channel * 2;
        const x = samples[n];
        const v3 = x - states[at + 1];
        const v1 = a1 * states[at] + a2 * v3;
        const v2 = states[at + 1] + a2 * states[at] + a3 * v3;
        states[at] = 2 * v1 - states[at];
        states[at + 1] = 2 * v2 - states[at + 1];
        samples[n] = eased[last + 2] * x + eased[last + 3] * v1 + eased[last + 4] * v2;
      }
    }
  }

  /** Lands on the targets once nothing that could be heard is left between. */
  private settle(i: number): void {
    const t = i * PARAMETERS;
    const p = i * PER_SECTION;
    for (let at = 0; at < PER_SECTION; at++) {
      const target = this.targets[t + (at % PARAMETERS)];
      if (Math.abs(this.eased[p + at] - target) > SETTLED * (Math.abs(target) + 1e-3)) return;
    }
    for (let at = 0; at < PER_SECTION; at++) this.eased[p + at] = this.targets[t + (at % PARAMETERS)];
    this.easing[i] = 0;
  }

  /** Numbers too small to be normal would make silence expensive. */
  private flush(i: number): void {
    const s = i * STATES;
    for (let at = s; at < s + STATES; at++) if (Math.abs(this.states[at]) < SILENCE) this.states[at] = 0;
  }

  private dropWires(): void {
    for (let i = this.count - 1; i >= 0; i--) {
      if (!this.leaving[i] || this.easing[i]) continue;
      this.count--;
      for (let j = i; j < this.count; j++) {
        this.keys[j] = this.keys[j + 1];
        this.leaving[j] = this.leaving[j + 1];
        this.easing[j] = this.easing[j + 1];
        this.warmUp[j] = this.warmUp[j + 1];
      }
      this.targets.copyWithin(i * PARAMETERS, (i + 1) * PARAMETERS, (this.count + 1) * PARAMETERS);
      this.eased.copyWithin(i * PER_SECTION, (i + 1) * PER_SECTION, (this.count + 1) * PER_SECTION);
      this.states.copyWithin(i * STATES, (i + 1) * STATES, (this.count + 1) * STATES);
    }
  }
}
