/** How long filters are left to ring after a stop: at least so long, until nothing has been heard for a while, and at most so long. */
const SHORTEST_SECONDS = 2;
const QUIET_SECONDS = 0.5;
const LONGEST_SECONDS = 30;
/** −100 dBFS. */
const QUIET = 1e-5;

/** What rings on after a stop. */
export class Tail {
  private frames = Infinity;
  /** Frames since it was last loud enough to be heard. */
  private quietFrames = Infinity;

  constructor(private readonly rateHz: number) {}

  /** Something sounds. */
  begin(): void {
    this.frames = this.quietFrames = 0;
  }

  /** @param peak of what was heard, linear */
  pass(frames: number, peak: number): void {
    this.frames += frames;
    this.quietFrames = peak < QUIET ? this.quietFrames + frames : 0;
  }

  /** It was cut off. */
  end(): void {
    this.frames = this.quietFrames = Infinity;
  }

  get isOver(): boolean {
    const hasRungOut = this.quietFrames > QUIET_SECONDS * this.rateHz || this.frames > LONGEST_SECONDS * this.rateHz;
    return hasRungOut && this.frames > SHORTEST_SECONDS * this.rateHz;
  }
}
