import type { BandChannel } from '../song/band';
import { roomFor, threadKernel, type Kernel, type Samples, type SectionMemory } from './kernel/kernel';
import {
  DIRECT_COEFFICIENTS,
  EASED_AT,
  EASING_STAGES,
  EASING_STEP,
  LANES,
  MAX_BLOCK,
  PARAMETERS,
  SECTION_STRIDE,
  SILENCE,
  STARTS_AT,
  STATES_AT,
  TARGETS_AT,
} from './kernel/layout';
import type { Processor } from './processor';
import { toDirectForm, type StateVariable } from './state-variable';

/** A section of a compiled equalizer: its key keeps its identity while its coefficients move. */
export interface KeyedSection extends StateVariable {
  key: string;
  /** What it acts on; the rest of the signal passes by. It never changes under one key. */
  channel: BandChannel;
}

const NAMES = ['g', 'k', 'm0', 'm1', 'm2'] as const;
/** What the lane is that a section leaves alone: its input. */
const WIRE = { m0: 1, m1: 0, m2: 0 };
const STAGE = PARAMETERS * LANES;
const PER_SECTION = EASING_STAGES * STAGE;
const LAST_AT = EASED_AT + PER_SECTION - STAGE;
const STATES = 2 * LANES;
const EASE_SECONDS = 0.006;
/** Only here does a section that moves come to rest, counted from the cascade's first frame, so that it does not matter how its samples are cut into blocks. */
const GRID = 128;
const SETTLED = 1e-8;
/** Beyond these ratios from one frequency and damping to the next a filter of several sections is not eased: its sections would not stay in step. */
const FARTHEST_EASED = { g: 1.6, k: 2.5 };
/** How long a filter that begins anew needs until it has forgotten its beginning, in time constants of its slowest pole; and the bounds of it. */
const FORGOTTEN_AFTER = 2.5;
const SHORTEST_WARM_UP_SECONDS = 0.016;
const LONGEST_WARM_UP_SECONDS = 0.1;

const NONE: readonly KeyedSection[] = [];

const ofMidSide = (channel: BandChannel) => channel === 'mid' || channel === 'side';
const actsOn = (channel: BandChannel, lane: number) =>
  channel === 'stereo' || (lane === 0) === (channel === 'left' || channel === 'mid');

/** What is known of a section, beside its numbers. */
interface Slot {
  readonly key: string;
  readonly channel: BandChannel;
  /** The lanes that it acts on. */
  readonly acts: readonly [boolean, boolean];
  /** True where it is the only section of its filter. */
  readonly isAlone: boolean;
  isEasing: boolean;
  /** True where it is the same in both states between which the cascade has moved last. */
  staysOnWay: boolean;
}

const isSame = ({ g, k, m0, m1, m2 }: StateVariable, other: StateVariable) =>
  g === other.g && k === other.k && m0 === other.m0 && m1 === other.m1 && m2 === other.m2;

const isWithin = (ratio: number, most: number) => ratio < most && ratio > 1 / most;

/** The name of the filter that a section is part of. */
const filterOf = (section: KeyedSection | undefined) => section?.key.slice(0, section.key.lastIndexOf('/'));

/** Two states of the same sections, and how far the one is on its way to the other. */
export interface Between {
  from: readonly KeyedSection[];
  to: readonly KeyedSection[];
  /** 0 to 1. */
  share: number;
  /** True in silence. */
  immediately: boolean;
}

/**
 * The equalizer's kernel: a cascade of sections over one or two channels of 64-bit samples, in the order in which they were given. Which
 * sections there are never changes: see `Fading` for one that takes the place of another.
 *
 * A change of coefficients is eased: every coefficient follows its target through three equal one-pole low-passes
 * (time constant {@link EASE_SECONDS}), so its path is smooth to the second derivative and its side effects fall away fast.
 *
 * A section that rests runs in direct form II, which costs least; one that moves runs as a state-variable filter, which stays calm. The
 * memory of the one form is taken over into the other.
 *
 * A section that acts on one channel is a wire in the other lane; where it acts on mid or side, the signal is turned into mid and side
 * before it and back after it.
 *
 * `process` allocates nothing.
 */
export class Cascade implements Processor<readonly KeyedSection[]> {
  private readonly slots: Slot[];
  private readonly memory: SectionMemory;
  readonly kernel: Kernel;
  private readonly follow: number;
  /** How many sections are on their way. */
  private easing = 0;
  private clock = 0;
  /** The states between which it has moved last, with nothing else in between. */
  private readonly way: Pick<Between, 'from' | 'to'> = { from: NONE, to: NONE };
  /** True where b0 was taken out of all sections. */
  private isFixed = false;

  /** @param kernel the default is the fastest that this thread has */
  constructor(
    sections: readonly KeyedSection[],
    private readonly rateHz: number,
    kernel: Kernel = threadKernel(),
  ) {
    this.follow = 1 - Math.exp(-EASING_STEP / (EASE_SECONDS * rateHz));
    ({ kernel: this.kernel, memory: this.memory } = roomFor(sections.length, kernel));
    this.slots = sections.map((section, i) => ({
      key: section.key,
      channel: section.channel,
      acts: [actsOn(section.channel, 0), actsOn(section.channel, 1)],
      isAlone: ![sections[i - 1], sections[i + 1]].map(filterOf).includes(filterOf(section)),
      isEasing: false,
      staysOnWay: false,
    }));
    sections.forEach((section, i) => {
      this.aim(i, section);
      this.land(i);
    });
  }

  get length(): number {
    return this.slots.length;
  }

  /** True while any coefficient is still on its way. */
  get isEasing(): boolean {
    return this.easing > 0;
  }

  /** True where the same sections are wanted, and those of one filter not too far away. */
  canEaseTo(sections: readonly KeyedSection[]): boolean {
    if (sections.length !== this.slots.length) return false;
    return sections.every(({ key, g, k }, i) => {
      const { key: known, acts, isAlone } = this.slots[i];
      if (key !== known || isAlone) return key === known;
      const at = i * SECTION_STRIDE + TARGETS_AT + (acts[0] ? 0 : 1);
      const { numbers } = this.memory;
      return isWithin(g / numbers[at], FARTHEST_EASED.g) && isWithin(k / numbers[at + LANES], FARTHEST_EASED.k);
    });
  }

  /** The coefficients to go to. @param sections for which {@link canEaseTo} is true */
  easeTo(sections: readonly KeyedSection[]): void {
    this.way.from = this.way.to = NONE;
    this.align();
    sections.forEach((section, i) => {
      if (!this.aim(i, section) || this.slots[i].isEasing) return;
      this.slots[i].isEasing = true;
      this.easing++;
      this.convert(i, 'integrators');
    });
  }

  /** Goes to a place between two states; where these are not its own sections nothing is done. Allocates nothing. */
  moveTo({ from, to, share, immediately }: Between): void {
    const { slots, way } = this;
    const isKnown = from === way.from && to === way.to;
    if (!isKnown) {
      if (!this.areOwn(from) || !this.areOwn(to)) return;
      way.from = from;
      way.to = to;
      for (let i = 0; i < slots.length; i++) slots[i].staysOnWay = isSame(from[i], to[i]);
    }
    this.align();
    for (let i = 0; i < slots.length; i++) {
      if (isKnown && slots[i].staysOnWay) continue;
      if (!this.aimBetween(i, from[i], to[i], share)) continue;
      if (immediately) this.land(i);
      else if (!slots[i].isEasing) {
        slots[i].isEasing = true;
        this.easing++;
        this.convert(i, 'integrators');
      }
    }
  }

  private areOwn(sections: readonly KeyedSection[]): boolean {
    const { slots } = this;
    if (sections.length !== slots.length) return false;
    for (let i = 0; i < slots.length; i++) if (sections[i].key !== slots[i].key) return false;
    return true;
  }

  /** Forgets the past of the signal: for a jump in a silent stream. */
  reset(): void {
    const { numbers } = this.memory;
    for (let i = 0; i < this.slots.length; i++) {
      const at = i * SECTION_STRIDE + STATES_AT;
      numbers.fill(0, at, at + STATES);
    }
  }

  /** True while the past of the signal is made of finite numbers. */
  get isSound(): boolean {
    const { numbers } = this.memory;
    for (let i = 0; i < this.slots.length; i++) {
      const at = i * SECTION_STRIDE + STATES_AT;
      for (let n = 0; n < STATES; n++) if (!Number.isFinite(numbers[at + n])) return false;
    }
    return true;
  }

  /** By the slowest pole: a section's memory falls to 1/e in −1/ln r frames, r the greatest radius of its poles. */
  get warmUpFrames(): number {
    const { numbers } = this.memory;
    let radius = 0;
    for (let i = 0; i < this.slots.length; i++) {
      for (let lane = 0; lane < LANES; lane++) {
        const [a1, a2] = [3, 4].map((c) => numbers[i * SECTION_STRIDE + c * LANES + lane]);
        const split = (a1 * a1) / 4 - a2;
        radius = Math.max(radius, split > 0 ? Math.abs(a1) / 2 + Math.sqrt(split) : Math.sqrt(Math.max(0, a2)));
      }
    }
    const wanted = -FORGOTTEN_AFTER / Math.log(Math.min(0.9999999, Math.max(1e-9, radius)));
    const bounded = Math.max(
      SHORTEST_WARM_UP_SECONDS * this.rateHz,
      Math.min(LONGEST_WARM_UP_SECONDS * this.rateHz, wanted),
    );
    return this.slots.length === 0 ? 0 : Math.round(bounded);
  }

  /** Gives its memory back to the kernel: it must not be used again. */
  release(): void {
    this.kernel.release(this.memory);
  }

  /** The next sample begins a step of what moves, so that new targets count from it on: what is in the middle of one ends there. */
  private align(): void {
    const phase = this.clock % EASING_STEP;
    this.clock = 0;
    if (phase === 0 || this.easing === 0) return;
    const { numbers } = this.memory;
    for (let i = 0; i < this.slots.length; i++) {
      if (!this.slots[i].isEasing) continue;
      const [starts, ends] = [STARTS_AT, LAST_AT].map((at) => i * SECTION_STRIDE + at);
      for (let n = 0; n < STAGE; n++)
        numbers[ends + n] = numbers[starts + n] + (phase / EASING_STEP) * (numbers[ends + n] - numbers[starts + n]);
    }
  }

  /** Sets the target of a section. @returns false when it was that already */
  private aim(i: number, section: StateVariable): boolean {
    let isNew = false;
    const wire = { ...section, ...WIRE };
    for (let lane = 0; lane < LANES; lane++) {
      const wanted = this.slots[i].acts[lane] ? section : wire;
      for (let p = 0; p < PARAMETERS; p++) {
        const at = i * SECTION_STRIDE + TARGETS_AT + p * LANES + lane;
        isNew ||= this.memory.numbers[at] !== wanted[NAMES[p]];
        this.memory.numbers[at] = wanted[NAMES[p]];
      }
    }
    return isNew;
  }

  /** Sets the target of a section between two. @returns false when it was that already */
  private aimBetween(i: number, from: StateVariable, to: StateVariable, share: number): boolean {
    const at = i * SECTION_STRIDE + TARGETS_AT;
    const { acts } = this.slots[i];
    let isNew = this.aimAt(at, acts, from.g + share * (to.g - from.g));
    isNew = this.aimAt(at + LANES, acts, from.k + share * (to.k - from.k)) || isNew;
    isNew = this.aimAt(at + 2 * LANES, acts, from.m0 + share * (to.m0 - from.m0)) || isNew;
    isNew = this.aimAt(at + 3 * LANES, acts, from.m1 + share * (to.m1 - from.m1)) || isNew;
    return this.aimAt(at + 4 * LANES, acts, from.m2 + share * (to.m2 - from.m2)) || isNew;
  }

  /** Sets one number of a target in the lanes that a section acts on. @returns false when it was that already */
  private aimAt(at: number, acts: Slot['acts'], wanted: number): boolean {
    const { numbers } = this.memory;
    let isNew = false;
    for (let lane = 0; lane < LANES; lane++) {
      if (!acts[lane]) continue;
      isNew ||= numbers[at + lane] !== wanted;
      numbers[at + lane] = wanted;
    }
    return isNew;
  }

  /**
   * Runs the cascade in place.
   * @param left samples, at least `frames` of them; those in the kernel's memory cost no copying
   * @param right the second channel, or null for mono: then every section should act on both
   */
  process(left: Samples, right: Samples | null, frames: number): void {
    if (this.slots.length === 0) return;
    const { kernel } = this;
    for (let at = 0, count = 0; at < frames; at += count) {
      count = this.runLength(frames - at);
      kernel.load(left, right, at, count);
      this.run(count);
      kernel.store(left, right, at, count);
    }
  }

  /**
   * Runs what lies in the kernel's lanes, while nothing moves; after {@link fix}, that is all that may be done with it.
   * @param frames 1 to {@link MAX_BLOCK}
   */
  processLanes(frames: number): void {
    if (this.isFixed) this.kernel.runOfOne(this.memory, 0, this.slots.length, frames);
    else this.run(frames);
  }

  /**
   * For a cascade that stays as it is and has heard nothing yet: takes the factor b0 out of every section, for both lanes to be multiplied by
   * at the end. Sections on mid or side keep theirs.
   * @returns the factors of the lanes
   */
  fix(): [number, number] {
    const factors: [number, number] = [1, 1];
    const { numbers } = this.memory;
    this.isFixed = this.slots.every(({ channel }, i) => {
      const isHeld =
        Math.abs(numbers[i * SECTION_STRIDE]) > SILENCE && Math.abs(numbers[i * SECTION_STRIDE + 1]) > SILENCE;
      return isHeld && !ofMidSide(channel);
    });
    if (!this.isFixed) return factors;
    for (let i = 0; i < this.slots.length; i++) {
      for (let lane = 0; lane < LANES; lane++) {
        const at = i * SECTION_STRIDE + lane;
        factors[lane] *= numbers[at];
        numbers[at + LANES] /= numbers[at];
        numbers[at + 2 * LANES] /= numbers[at];
        numbers[at] = 1;
      }
    }
    return factors;
  }

  /** To be asked in silence. @returns true where nothing is left of what was heard before */
  ringOut(): boolean {
    const { numbers } = this.memory;
    this.flushAll();
    for (let i = 0; i < this.slots.length; i++) {
      const at = i * SECTION_STRIDE + STATES_AT;
      for (let n = 0; n < STATES; n++) if (numbers[at + n] !== 0) return false;
    }
    return true;
  }

  /** Clears what {@link processLanes} leaves that is too small to matter. */
  flushAll(): void {
    this.kernel.flush(this.memory, 0, this.slots.length);
  }

  /** How many frames may be run at once: up to the next place where a section may come to rest. */
  private runLength(frames: number): number {
    return Math.min(frames, this.easing > 0 ? GRID - (this.clock % GRID) : MAX_BLOCK);
  }

  private run(frames: number): void {
    const { kernel, memory, slots } = this;
    const phase = this.clock % EASING_STEP;
    this.clock += frames;
    const maySettle = this.clock % GRID === 0;
    let inMidSide = false;
    let i = 0;
    while (i < slots.length) {
      const { channel } = slots[i];
      if (channel !== 'stereo' && ofMidSide(channel) !== inMidSide) {
        inMidSide = !inMidSide;
        if (inMidSide) kernel.toMidSide(frames);
        else kernel.toLeftRight(frames);
      }
      const first = i;
      if (slots[i].isEasing) {
        // As many as move and stay in the same kind of lanes go in one run; what acts on both lanes alike may go in either.
        while (i < slots.length && slots[i].isEasing && this.fits(i, inMidSide)) i++;
        kernel.ease(memory, first, i - first, frames, this.follow, phase);
        if (maySettle) for (let moved = first; moved < i; moved++) this.settle(moved);
      } else {
        while (i < slots.length && !slots[i].isEasing && this.fits(i, inMidSide)) i++;
        kernel.run(memory, first, i - first, frames);
      }
      kernel.flush(memory, first, i - first);
    }
    if (inMidSide) kernel.toLeftRight(frames);
  }

  private fits(i: number, inMidSide: boolean): boolean {
    const { channel } = this.slots[i];
    return channel === 'stereo' || ofMidSide(channel) === inMidSide;
  }

  /** Lands on the targets once nothing that could be heard is left between. */
  private settle(i: number): void {
    const at = i * SECTION_STRIDE;
    const { numbers } = this.memory;
    for (let n = 0; n < PER_SECTION; n++) {
      const target = numbers[at + TARGETS_AT + (n % STAGE)];
      if (Math.abs(numbers[at + EASED_AT + n] - target) > SETTLED * (Math.abs(target) + 1e-3)) return;
    }
    this.land(i);
    this.convert(i, 'direct');
    this.slots[i].isEasing = false;
    this.easing--;
  }

  /** Puts a section at its targets, and works out what it computes while it rests. */
  private land(i: number): void {
    const at = i * SECTION_STRIDE;
    const { numbers } = this.memory;
    for (let n = 0; n < PER_SECTION; n++) numbers[at + EASED_AT + n] = numbers[at + TARGETS_AT + (n % STAGE)];
    for (let n = 0; n < STAGE; n++) numbers[at + STARTS_AT + n] = numbers[at + TARGETS_AT + n];
    for (let lane = 0; lane < LANES; lane++) writeDirect(numbers, at + lane, this.slots[i].acts[lane]);
  }

  /** Takes the memory of a section's lanes into the form that runs next. */
  private convert(i: number, to: 'integrators' | 'direct'): void {
    for (let lane = 0; lane < LANES; lane++)
      if (this.slots[i].acts[lane]) convertMemory(this.memory.numbers, i * SECTION_STRIDE + lane, to);
  }
}

/** What a lane at its targets computes while it rests: the state-variable section in direct form. A lane that is left alone passes exactly. */
function writeDirect(numbers: Float64Array, at: number, acts: boolean): void {
  const parameter = (p: number) => numbers[at + LAST_AT + p * LANES];
  const direct = acts
    ? toDirectForm({ g: parameter(0), k: parameter(1), m0: parameter(2), m1: parameter(3), m2: parameter(4) })
    : { b0: 1, b1: 0, b2: 0, a1: 0, a2: 0 };
  const coefficients = [direct.b0, direct.b1, direct.b2, direct.a1, direct.a2];
  for (let c = 0; c < DIRECT_COEFFICIENTS; c++) numbers[at + c * LANES] = coefficients[c];
}

/**
 * Both forms have the same poles, so the memory of the one is a linear map of that of the other: `s1 = 2·a2·(w1 − w2)`,
 * `s2 = 2·a3·(w1 + w2)`, with a2 = g/(1 + g(g + k)) and a3 = g·a2. It follows from T·[1, 0] = B and T·F = A·T, where A and B are the
 * state-variable filter's and F is the direct form's step.
 */
function convertMemory(numbers: Float64Array, at: number, to: 'integrators' | 'direct'): void {
  const g = numbers[at + LAST_AT];
  const first = (2 * g) / (1 + g * (g + numbers[at + LAST_AT + LANES]));
  const second = g * first;
  const [memory1, memory2] = [numbers[at + STATES_AT], numbers[at + STATES_AT + LANES]];
  const [next, last] =
    to === 'integrators'
      ? [first * (memory1 - memory2), second * (memory1 + memory2)]
      : [0.5 * (memory2 / second + memory1 / first), 0.5 * (memory2 / second - memory1 / first)];
  numbers[at + STATES_AT] = next;
  numbers[at + STATES_AT + LANES] = last;
}
