import { BlockConvolver } from './block-convolver';
import { HEAD, TAIL, type ConvolutionKernel } from './convolution-kernel';
import { curveOf, FADE_SECONDS } from './fade-curve';
import type { Processor } from './processor';

/** Blocks of the head in one of the tail: so many steps there are to spread the tail's work over, the last for the transform of what came in. */
const STEPS = TAIL / HEAD;
/** What is worked out beside each other is transformed back in so many steps in turn. */
const PLACES = 8;
/** After so many turns of the tail's blocks all that is heard of it was worked out in its own time. */
const TURNS = 2;

/** What is ready and not asked for is let go of after so many turns, and the oldest of more than so many: more steps there are none from one value to another. */
const READY_TURNS = 16;
const READY_MOST = 16;

/** What one kernel makes of the signal. */
class Response {
  kernel: ConvolutionKernel;
  /** Of its beginning and of its tail, the block that is heard: two sides, frame by frame. */
  readonly head = new Float64Array(2 * HEAD);
  tail: Float64Array;
  private nextTail: Float64Array;
  private readonly headSum: number[];
  private readonly tailSum: number[];
  private turns = 0;
  /** The step of its turn in which its sum is transformed back. */
  private lastStep = STEPS - 2;

  /** @param kernel as in {@link begin} */
  constructor(
    kernel: ConvolutionKernel,
    private readonly heads: BlockConvolver,
    private readonly tails: BlockConvolver | null,
  ) {
    this.kernel = kernel;
    this.headSum = heads.spectra();
    this.tailSum = tails?.spectra() ?? [];
    [this.tail, this.nextTail] = [0, 1].map(() => new Float64Array(tails ? 2 * TAIL : 0));
  }

  /** Runs the tail of a kernel from the next turn on. @param others how many are worked out beside it */
  begin(kernel: ConvolutionKernel, others: number): void {
    this.kernel = kernel;
    this.turns = 0;
    this.lastStep = STEPS - 2 - (others % PLACES);
  }

  /** Runs a kernel on a signal that was silent so far. */
  beginInSilence(kernel: ConvolutionKernel): void {
    this.kernel = kernel;
    this.turns = TURNS;
    this.tailSum.fill(0);
    for (const block of [this.head, this.tail, this.nextTail]) block.fill(0);
  }

  /** True where its tail is there. */
  get isWhole(): boolean {
    return this.tails === null || this.turns >= TURNS;
  }

  get isForgotten(): boolean {
    return this.turns > READY_TURNS;
  }

  /** Works out at once what it came too late for. @param step how many steps of this turn are over */
  catchUp(step: number): void {
    if (this.isWhole) return;
    const { tailSum, tails, kernel } = this;
    tailSum.fill(0);
    for (let p = 0; p < kernel.tail!.count; p++) tails!.add(p, kernel.tail!, tailSum, 1);
    tails!.output(tailSum, this.tail);
    tailSum.fill(0);
    this.turns = TURNS;
    for (let i = 0; i < step; i++) this.runTail(i);
  }

  /** Works out the block that is heard of its beginning. */
  runHead(): void {
    const { kernel, heads, headSum } = this;
    headSum.fill(0);
    for (let p = 0; p < kernel.head.count; p++) heads.add(p, kernel.head, headSum);
    heads.output(headSum, this.head);
  }

  /** A step of the tail's next block. */
  runTail(step: number): void {
    const { tails, tailSum } = this;
    const { tail } = this.kernel;
    if (!tails || !tail || this.turns === 0) return;
    const { lastStep } = this;
    if (step === lastStep) tails.output(tailSum, this.nextTail);
    if (step >= lastStep) return;
    const share = Math.ceil(tail.count / lastStep);
    for (let p = step * share; p < Math.min(tail.count, (step + 1) * share); p++) tails.add(p, tail, tailSum);
  }

  /** A block of the tail is over, and what was worked out is heard. */
  turn(): void {
    [this.tail, this.nextTail] = [this.nextTail, this.tail];
    this.tailSum.fill(0);
    this.turns++;
  }
}

/** Frames by which the blocks of convolvers are shifted against each other, so that they do not all work in the same moment. */
const SHIFT = 128;

/**
 * Convolution with a long response: its beginning in short partitions, the rest in long ones, whose work is spread over the short ones
 * (G. Garcia, "Optimal Filter Partition for Efficient Convolution with Short Input/Output Delay", AES 113, 2002; overlap-save). A change of
 * the kernel is eased: the other one is worked out of the same past signal, and the output goes over to it. `process` allocates nothing.
 */
export class Convolver implements Processor<ConvolutionKernel> {
  private readonly taps: number;
  private readonly heads: BlockConvolver;
  private readonly tails: BlockConvolver | null;
  private current: Response;
  /** What comes in its place, and so many frames of the way that are over; −1 before it is begun. */
  private next: Response | null = null;
  private faded = -1;
  /** What is wanted after that. */
  private wanted: { kernel: ConvolutionKernel; atOnce: boolean } | null = null;
  /** What is worked out unheard, the oldest first; and what has been let go of. */
  private readonly ready: Response[] = [];
  private readonly free: Response[] = [];
  private readonly fade: Float64Array;
  private readonly offset: number;
  private readonly tailOffset: number;
  private filled: number;
  private tailFilled: number;

  /** @param name sets by how much its blocks are shifted: always the same for the same name */
  constructor(kernel: ConvolutionKernel, rateHz: number, name = '') {
    this.taps = kernel.taps;
    this.heads = new BlockConvolver(HEAD, kernel.head.count);
    // One more than it takes: what came last is worked out as well for a kernel that comes later.
    this.tails = kernel.tail && new BlockConvolver(TAIL, kernel.tail.count + 1);
    this.current = new Response(kernel, this.heads, this.tails);
    this.current.beginInSilence(kernel);
    this.fade = curveOf(FADE_SECONDS, rateHz);
    const shifts = [...name].reduce((sum, letter) => sum + letter.charCodeAt(0), 0);
    this.filled = this.offset = (shifts * SHIFT) % HEAD;
    this.tailFilled = this.tailOffset = (Math.floor((shifts * SHIFT) / HEAD) * HEAD) % TAIL;
  }

  get warmUpFrames(): number {
    return this.taps + HEAD;
  }

  canEaseTo(kernel: ConvolutionKernel): boolean {
    return kernel.taps === this.taps;
  }

  /** The kernel to run from now on, as soon as it costs no burst of work. @param kernel as long as the one that runs */
  easeTo(kernel: ConvolutionKernel): void {
    this.want(kernel, false);
  }

  /** The kernel to go over to from the next frame on. @param kernel as long as the one that runs */
  switchTo(kernel: ConvolutionKernel): void {
    this.want(kernel, true);
  }

  /** The kernel to run from the next frame on, without going over. @param kernel as long as the one that runs */
  jumpTo(kernel: ConvolutionKernel): void {
    this.want(kernel, true);
    while (this.faded >= 0) this.arrive();
  }

  /** Works a kernel out unheard, so that going over to it costs no burst of work. @param kernel as long as the one that runs */
  prepare(kernel: ConvolutionKernel): void {
    // Without a tail there is nothing to do before it is heard.
    if (!this.tails || this.ready.some((response) => response.kernel === kernel)) return;
    if (this.ready.length === READY_MOST) this.free.push(this.ready.shift()!);
    this.ready.push(this.begin(kernel));
  }

  private begin(kernel: ConvolutionKernel): Response {
    const response = this.free.pop() ?? new Response(kernel, this.heads, this.tails);
    response.begin(kernel, 1 + this.ready.length);
    return response;
  }

  private want(kernel: ConvolutionKernel, atOnce: boolean): void {
    this.wanted = null;
    if (this.faded > 0) {
      if (kernel !== this.next!.kernel) this.wanted = { kernel, atOnce };
      return;
    }
    if (this.next?.kernel !== kernel) this.letGoOfNext();
    if (kernel === this.current.kernel) return;
    this.next ??= this.takeReady(kernel) ?? this.begin(kernel);
    if (atOnce) this.next.catchUp(this.tailFilled / HEAD);
    if (this.next.isWhole) this.goOver();
  }

  private takeReady(kernel: ConvolutionKernel): Response | undefined {
    const place = this.ready.findIndex((response) => response.kernel === kernel);
    return place < 0 ? undefined : this.ready.splice(place, 1)[0];
  }

  private letGoOfNext(): void {
    if (this.next) this.free.push(this.next);
    this.next = null;
    this.faded = -1;
  }

  private goOver(): void {
    this.next!.runHead();
    this.faded = 0;
  }

  /** The one that came in is heard alone. */
  private arrive(): void {
    [this.current, this.next] = [this.next!, this.current];
    this.letGoOfNext();
    if (this.wanted) this.want(this.wanted.kernel, this.wanted.atOnce);
  }

  reset(): void {
    const { kernel } = this.wanted ?? this.next ?? this.current;
    this.wanted = null;
    this.letGoOfNext();
    this.free.push(...this.ready.splice(0));
    this.heads.reset();
    this.tails?.reset();
    this.current.beginInSilence(kernel);
    this.filled = this.offset;
    this.tailFilled = this.tailOffset;
  }

  get isSound(): boolean {
    return this.heads.isSound && (this.tails?.isSound ?? true);
  }

  release(): void {
    // It holds nothing but its own memory.
  }

  process(left: Float64Array, right: Float64Array | null, frames: number): void {
    const { heads, tails, fade } = this;
    for (let n = 0; n < frames; n++) {
      const at = this.filled;
      const tailAt = this.tailFilled + at;
      const l = left[n];
      const r = right ? right[n] : 0;
      heads.put(at, l, r);
      if (tails) tails.put(tailAt, l, r);
      const { current } = this;
      left[n] = current.head[2 * at] + (tails ? current.tail[2 * tailAt] : 0);
      if (right) right[n] = current.head[2 * at + 1] + (tails ? current.tail[2 * tailAt + 1] : 0);
      if (this.faded >= 0) {
        const next = this.next!;
        const share = fade[this.faded];
        left[n] += share * (next.head[2 * at] + (tails ? next.tail[2 * tailAt] : 0) - left[n]);
        if (right) right[n] += share * (next.head[2 * at + 1] + (tails ? next.tail[2 * tailAt + 1] : 0) - right[n]);
        if (++this.faded === fade.length) this.arrive();
      }
      if (++this.filled === HEAD) this.runBlock();
    }
  }

  private runBlock(): void {
    const { heads, tails, current, next, ready } = this;
    this.filled = 0;
    heads.finishBlock();
    current.runHead();
    if (this.faded >= 0) next!.runHead();
    if (!tails) return;
    const step = this.tailFilled / HEAD;
    current.runTail(step);
    next?.runTail(step);
    for (let i = 0; i < ready.length; i++) ready[i].runTail(step);
    this.tailFilled += HEAD;
    if (this.tailFilled === TAIL) this.turn(tails);
  }

  private turn(tails: BlockConvolver): void {
    const { current, next, ready } = this;
    this.tailFilled = 0;
    tails.finishBlock();
    current.turn();
    next?.turn();
    for (let i = 0; i < ready.length; i++) ready[i].turn();
    while (ready[0]?.isForgotten) this.free.push(ready.shift()!);
    if (this.faded < 0 && next?.isWhole) this.goOver();
  }
}
