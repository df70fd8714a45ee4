import type { MixRange } from './render';
import { Sum } from './sum';

/** Who hears some strips of a render. */
export interface StripListener {
  stripIds: ReadonlySet<string>;
  /**
   * What a strip gives to what it runs into, in its own time: some frames after the other from the range's first to its last.
   * @param left valid until it returns, as `right`; 0 dBFS = 1
   */
  hear(stripId: string, left: Float64Array, right: Float64Array): void;
}

/** Frames that are told together. */
const TOLD_FRAMES = 4096;

/** Hears one strip. */
export class StripEar {
  /** What the strip gives in a block, before it is handed on. */
  readonly sum = new Sum();
  private readonly left = new Float64Array(TOLD_FRAMES);
  private readonly right = new Float64Array(TOLD_FRAMES);
  private held = 0;

  /**
   * @param from the first frame of the render at which the strip gives what belongs to the range
   * @param to the first one at which it does not any more
   */
  constructor(
    private readonly from: number,
    private readonly to: number,
    private readonly tell: (left: Float64Array, right: Float64Array) => void,
  ) {}

  /** Hears a block that lies in {@link sum}, and hands it on. */
  handOn(to: Sum, frame: number, frames: number): void {
    const { left, right } = this.sum;
    to.add(left, right, frames);
    const first = Math.max(0, this.from - frame);
    const beyond = Math.min(frames, this.to - frame);
    if (first >= beyond) return;
    if (this.held + beyond - first > TOLD_FRAMES) this.flush();
    // A block with what is no number is silent in the sum, too.
    if (this.sum.isFinite(frames)) {
      this.left.set(left.subarray(first, beyond), this.held);
      this.right.set(right.subarray(first, beyond), this.held);
    } else for (const side of [this.left, this.right]) side.fill(0, this.held, this.held + beyond - first);
    this.held += beyond - first;
  }

  /** Tells what is held. */
  flush(): void {
    if (this.held > 0) this.tell(this.left.subarray(0, this.held), this.right.subarray(0, this.held));
    this.held = 0;
  }
}

/** The ears of a render, made where its strips are set. */
export class StripEars {
  private readonly ears: StripEar[] = [];

  constructor(
    private readonly listener: StripListener,
    private readonly range: MixRange,
  ) {}

  /** @param late frames by which what a strip gives is late; @returns null where nobody hears it */
  of(stripId: string, late: number): StripEar | null {
    const { listener, range } = this;
    if (!listener.stripIds.has(stripId)) return null;
    const ear = new StripEar(range.startFrame + late, range.endFrame + late, (left, right) =>
      listener.hear(stripId, left, right),
    );
    this.ears.push(ear);
    return ear;
  }

  /** Tells what is held still. */
  flush(): void {
    for (const ear of this.ears) ear.flush();
  }

  /** Gives their memory back: they must not be used again. */
  release(): void {
    for (const { sum } of this.ears) sum.release();
  }
}
