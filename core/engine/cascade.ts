import type { BandChannel } from '../song/band';
import { roomFor, threadKernel, type Kernel, type SectionMemory } from './kernel/kernel';
import {
  DIRECT_COEFFICIENTS,
  EASED_AT,
  EASING_STAGES,
  LANES,
  MAX_BLOCK,
  PARAMETERS,
  SECTION_STRIDE,
  STATES_AT,
  TARGETS_AT,
} from './kernel/layout';
import { toDirectForm, type StateVariable } from './state-variable';

/** A section of a compiled equalizer: its key keeps its identity while its coefficients move. */
export interface KeyedSection extends StateVariable {
  key: string;
  /** What it acts on; the rest of the signal passes by. It never changes under one key. */
  channel: BandChannel;
}

/**
 * The equalizer's kernel: a cascade of state-variable sections over one or two channels of 64-bit samples.
 *
 * A change of coefficients is eased: every coefficient follows its target through three equal one-pole low-passes
 * (time constant {@link EASE_SECONDS}), so its path is smooth to the second derivative and its side effects fall away fast.
 * Sections are matched by key and run in the order in which they are wanted: one that is new starts as a wire at its place, listens for
 * 16 ms until its integrators have caught up with the signal and then moves in; one that is gone becomes a wire before it is dropped; one that
 * has changed places goes at the old and comes at the new. So switching, adding, removing and changing type or order all sound as one smooth move.
 *
 * A section that rests runs in direct form II, which costs least; one that moves runs as a state-variable filter, which stays calm. The
 * memory of the one form is taken over into the other.
 *
 * A section that acts on one channel is a wire in the other lane; where it acts on mid or side, the signal is turned into mid and side
 * before it and back after it.
 *
 * `process` allocates nothing.
 */
const NAMES = ['g', 'k', 'm0', 'm1', 'm2'] as const;
/** What a section that is leaving becomes, and what the lane is that a section leaves alone: its input. */
const WIRE = { m0: 1, m1: 0, m2: 0 };
const STAGE = PARAMETERS * LANES;
const PER_SECTION = EASING_STAGES * STAGE;
const LAST_AT = EASED_AT + PER_SECTION - STAGE;
const STATES = 2 * LANES;
const EASE_SECONDS = 0.006;
const WARM_UP_SECONDS = 0.016;
const SETTLED = 1e-8;
const SILENCE = 1e-30;

type Samples = Float64Array;

const ofMidSide = (channel: BandChannel) => channel === 'mid' || channel === 'side';
const actsOn = (channel: BandChannel, lane: number) =>
  channel === 'stereo' || (lane === 0) === (channel === 'left' || channel === 'mid');

/** What is known of a section that runs, beside its numbers. */
interface Slot {
  readonly key: string;
  readonly channel: BandChannel;
  isLeaving: boolean;
  isEasing: boolean;
  /** True while it runs in direct form, as it does at rest. */
  isDirect: boolean;
  /** Frames that it still listens before it moves, where it is new. */
  warmUp: number;
}

/** Where the longest run of wanted places that rise lies among the places of what is there: those sections stay. */
function rising(places: readonly (number | undefined)[]): Set<number> {
  const lengths: number[] = [];
  const before: number[] = [];
  let last = -1;
  places.forEach((place, i) => {
    lengths[i] = 0;
    before[i] = -1;
    if (place === undefined) return;
    lengths[i] = 1;
    for (let j = 0; j < i; j++) {
      const earlier = places[j];
      if (earlier === undefined || earlier >= place || lengths[j] < lengths[i]) continue;
      lengths[i] = lengths[j] + 1;
      before[i] = j;
    }
    if (last < 0 || lengths[i] > lengths[last]) last = i;
  });
  const kept = new Set<number>();
  for (let i = last; i >= 0; i = before[i]) kept.add(i);
  return kept;
}

export class Cascade {
  private count = 0;
  /** One for each section that runs; those beyond `count` are over. */
  private slots: Slot[] = [];
  private capacity = 0;
  private memory: SectionMemory;
  private kernel: Kernel;
  private readonly follow: number;

  /** @param kernel the default is the fastest that this thread has */
  constructor(
    private readonly rateHz: number,
    kernel: Kernel = threadKernel(),
  ) {
    this.follow = 1 - Math.exp(-1 / (EASE_SECONDS * rateHz));
    ({ kernel: this.kernel, memory: this.memory } = roomFor(0, kernel));
  }

  /** How many sections run, those that are leaving included. */
  get length(): number {
    return this.count;
  }

  /** True while any coefficient is still on its way. */
  get isEasing(): boolean {
    for (let i = 0; i < this.count; i++) if (this.slots[i].isEasing) return true;
    return false;
  }

  /** The sections to run from now on, in their order. @param immediately true to jump there: for an engine that has not played yet */
  setTarget(sections: readonly KeyedSection[], immediately = false): void {
    if (immediately) this.count = 0;
    const wanted = new Map(sections.map((section, place) => [section.key, place]));
    const running = this.slots.slice(0, this.count);
    // One that is on its way out comes back in its place.
    const kept = rising(running.map(({ key }) => wanted.get(key)));
    const isMissing = (section: KeyedSection) => ![...kept].some((i) => running[i].key === section.key);
    if (sections.some(isMissing)) this.arrange(sections, running, kept, immediately);
    else running.forEach((slot, i) => this.turn(i, slot, kept.has(i) ? sections[wanted.get(slot.key)!] : undefined));
  }

  /** Lets a section that runs go for its target, or go. */
  private turn(i: number, slot: Slot, section: KeyedSection | undefined): void {
    slot.isLeaving = !section;
    if (section ? this.aim(i, section) : this.aimAtWire(i)) slot.isEasing = true;
  }

  /** Puts new sections at their places among those that run. */
  private arrange(
    sections: readonly KeyedSection[],
    running: readonly Slot[],
    kept: ReadonlySet<number>,
    immediately: boolean,
  ): void {
    const places = new Map(sections.map((section, place) => [section.key, place]));
    const stays = new Set([...kept].map((i) => running[i].key));
    const numbers = this.memory.numbers.slice(0, running.length * SECTION_STRIDE);
    this.reserve(running.length + sections.length - kept.size);
    this.count = 0;
    let next = 0;
    const addUpTo = (place: number) => {
      for (; next < place; next++) if (!stays.has(sections[next].key)) this.append(sections[next], immediately);
    };
    running.forEach((slot, from) => {
      const place = kept.has(from) ? places.get(slot.key)! : undefined;
      if (place !== undefined) addUpTo(place);
      const i = this.count++;
      this.memory.numbers.set(numbers.subarray(from * SECTION_STRIDE, (from + 1) * SECTION_STRIDE), i * SECTION_STRIDE);
      // One that has changed places is another one at its new place, so this one must not be found by its key again.
      const isMoved = place === undefined && places.has(slot.key);
      this.slots[i] = isMoved ? { ...slot, key: '' } : slot;
      this.turn(i, this.slots[i], place === undefined ? undefined : sections[place]);
    });
    addUpTo(sections.length);
  }

  /** Forgets the past of the signal: for a jump in a silent stream. */
  reset(): void {
    const { numbers } = this.memory;
    for (let i = 0; i < this.count; i++) {
      const at = i * SECTION_STRIDE + STATES_AT;
      numbers.fill(0, at, at + STATES);
    }
  }

  /** True while the past of the signal is made of finite numbers. */
  get isSound(): boolean {
    const { numbers } = this.memory;
    for (let i = 0; i < this.count; i++) {
      const at = i * SECTION_STRIDE + STATES_AT;
      for (let n = 0; n < STATES; n++) if (!Number.isFinite(numbers[at + n])) return false;
    }
    return true;
  }

  /** Sets the target of a section. @returns false when it was that already */
  private aim(i: number, section: StateVariable): boolean {
    let isNew = false;
    const wire = { ...section, ...WIRE };
    for (let lane = 0; lane < LANES; lane++) {
      const wanted = actsOn(this.slots[i].channel, lane) ? section : wire;
      for (let p = 0; p < PARAMETERS; p++) {
        const at = i * SECTION_STRIDE + TARGETS_AT + p * LANES + lane;
        isNew ||= this.memory.numbers[at] !== wanted[NAMES[p]];
        this.memory.numbers[at] = wanted[NAMES[p]];
      }
    }
    return isNew;
  }

  private aimAtWire(i: number): boolean {
    const at = i * SECTION_STRIDE + TARGETS_AT;
    const { numbers } = this.memory;
    return this.aim(i, { ...WIRE, g: numbers[at], k: numbers[at + LANES] });
  }

  private append(section: KeyedSection, immediately: boolean): void {
    const i = this.count++;
    this.slots[i] = {
      key: section.key,
      channel: section.channel,
      isLeaving: false,
      isEasing: !immediately,
      isDirect: true,
      warmUp: immediately ? 0 : Math.round(WARM_UP_SECONDS * this.rateHz),
    };
    const at = i * SECTION_STRIDE;
    const { numbers } = this.memory;
    numbers.fill(0, at, at + SECTION_STRIDE);
    this.aim(i, immediately ? section : { ...section, ...WIRE });
    this.land(i);
    this.aim(i, section);
  }

  private reserve(count: number): void {
    if (this.capacity >= count) return;
    while (this.capacity < count) this.capacity = Math.max(4, this.capacity * 2);
    const { memory, kernel } = roomFor(this.capacity, this.kernel);
    memory.numbers.set(this.memory.numbers);
    this.memory = memory;
    this.kernel = kernel;
  }

  /**
   * Runs the cascade in place.
   * @param left samples, at least `frames` of them; the kernel's own block costs no copying
   * @param right the second channel, or null for mono: then every section should act on both
   */
  process(left: Samples, right: Samples | null, frames: number): void {
    if (this.count === 0) return;
    for (let at = 0; at < frames; at += MAX_BLOCK) this.processBlock(left, right, at, Math.min(MAX_BLOCK, frames - at));
    this.dropWires();
  }

  private processBlock(left: Samples, right: Samples | null, at: number, frames: number): void {
    const { kernel } = this;
    copy(left, at, kernel.left, 0, frames);
    if (right) copy(right, at, kernel.right, 0, frames);
    kernel.load(frames, right === null);
    this.runAll(frames);
    kernel.store(frames, right === null);
    copy(kernel.left, 0, left, at, frames);
    if (right) copy(kernel.right, 0, right, at, frames);
  }

  /**
   * Runs 32-bit samples through the cascade in place.
   * @param samples interleaved where there are two channels
   * @returns false when one of the samples is not a number; they are lost then
   */
  processFloats(samples: Float32Array, channels: 1 | 2): boolean {
    const { kernel } = this;
    for (let at = 0; at < samples.length; at += channels * MAX_BLOCK) {
      const block = samples.subarray(at, at + channels * MAX_BLOCK);
      const frames = block.length / channels;
      kernel.floats.set(block);
      if (!kernel.loadFloats(frames, channels === 1)) return false;
      this.runAll(frames);
      kernel.storeFloats(frames, channels === 1);
      block.set(kernel.floats.subarray(0, block.length));
    }
    this.dropWires();
    return true;
  }

  private runAll(frames: number): void {
    const { kernel, memory } = this;
    let inMidSide = false;
    let i = 0;
    while (i < this.count) {
      const { channel, isDirect } = this.slots[i];
      if (channel !== 'stereo' && ofMidSide(channel) !== inMidSide) {
        inMidSide = !inMidSide;
        if (inMidSide) kernel.toMidSide(frames);
        else kernel.toLeftRight(frames);
      }
      const first = i;
      if (this.moves(i)) {
        if (isDirect) this.convert(i, 'integrators');
        kernel.ease(memory, i++, frames, this.follow);
        this.settle(first);
      } else {
        // As many as rest and stay in the same kind of lanes go in one run; what acts on both lanes alike may go in either.
        while (i < this.count && !this.moves(i) && this.fits(i, inMidSide)) i++;
        kernel.run(memory, first, i - first, frames);
      }
      for (let done = first; done < i; done++) {
        const slot = this.slots[done];
        if (slot.warmUp > 0) slot.warmUp -= frames;
        this.flush(done);
      }
    }
    if (inMidSide) kernel.toLeftRight(frames);
  }

  private moves(i: number): boolean {
    return this.slots[i].isEasing && this.slots[i].warmUp <= 0;
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
  }

  /** Puts a section at its targets, and works out what it computes while it rests. */
  private land(i: number): void {
    const at = i * SECTION_STRIDE;
    const { numbers } = this.memory;
    for (let n = 0; n < PER_SECTION; n++) numbers[at + EASED_AT + n] = numbers[at + TARGETS_AT + (n % STAGE)];
    for (let lane = 0; lane < LANES; lane++) writeDirect(numbers, at + lane, actsOn(this.slots[i].channel, lane));
  }

  /** Takes the memory of a section's lanes into the form that runs next. */
  private convert(i: number, to: 'integrators' | 'direct'): void {
    for (let lane = 0; lane < LANES; lane++)
      if (actsOn(this.slots[i].channel, lane)) convertMemory(this.memory.numbers, i * SECTION_STRIDE + lane, to);
    this.slots[i].isDirect = to === 'direct';
  }

  /** Numbers too small to be normal would make silence expensive. */
  private flush(i: number): void {
    const { numbers } = this.memory;
    const s = i * SECTION_STRIDE + STATES_AT;
    for (let at = s; at < s + STATES; at++) if (Math.abs(numbers[at]) < SILENCE) numbers[at] = 0;
  }

  private dropWires(): void {
    for (let i = this.count - 1; i >= 0; i--) {
      if (!this.slots[i].isLeaving || this.slots[i].isEasing) continue;
      this.count--;
      for (let j = i; j < this.count; j++) this.slots[j] = this.slots[j + 1];
      this.memory.numbers.copyWithin(i * SECTION_STRIDE, (i + 1) * SECTION_STRIDE, (this.count + 1) * SECTION_STRIDE);
    }
  }
}

function copy(from: Samples, fromAt: number, to: Samples, toAt: number, frames: number): void {
  if (from === to) return;
  for (let n = 0; n < frames; n++) to[toAt + n] = from[fromAt + n];
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
  const [one, two] = [numbers[at + STATES_AT], numbers[at + STATES_AT + LANES]];
  const [next, last] =
    to === 'integrators'
      ? [first * (one - two), second * (one + two)]
      : [0.5 * (two / second + one / first), 0.5 * (two / second - one / first)];
  numbers[at + STATES_AT] = next;
  numbers[at + STATES_AT + LANES] = last;
}
