import type { CompiledSong } from './compile';
import type { LatencyPlan, StripPlaces } from './latency';
import type { Timeline, TimelineSegment } from './timeline';

/** What moves is told where to go this often, counted from the song's beginning, frames. */
export const MOVED_EVERY = 256;

/** How far ahead of itself a line is told: the eased values follow so much later, seconds. */
export const LEAD_SECONDS = 0.018;
/** So long before a jump what will be heard then begins to listen. */
export const READY_SECONDS = 0.5;

/** Where one part of a strip stands in the strip's timeline. It hears a frame so much later than the frame is played as what lies before it is late. */
class Lane {
  /** The segment that holds. */
  at = 0;
  /** The one that was handed on last; −1 where none was. */
  handed = -1;
  /** The jump that was made ready for. */
  ready = -1;

  /** @param stage the stage of the chain that it leads; −1 for what gets ready for nothing */
  constructor(
    readonly timeline: Timeline,
    readonly late: number,
    private readonly readyFrames: number,
    readonly stage = -1,
  ) {}

  /** Goes to a frame, which mostly lies a little behind the last one. */
  locate(frame: number): void {
    const { timeline } = this;
    const place = frame - this.late;
    if (timeline[this.at].from > place) {
      this.at = 0;
      this.ready = -1;
    }
    while (this.at + 1 < timeline.length && timeline[this.at + 1].from <= place) this.at++;
  }

  get moves(): boolean {
    return this.timeline[this.at].end !== null;
  }

  /** The jump that is made ready for next: a convolution gets ready for several. */
  private get nextJump(): number {
    const { timeline, at, ready, stage } = this;
    const after = this.stacks && ready > at ? ready : at;
    return timeline[after].nextJumps[stage] ?? -1;
  }

  private get stacks(): boolean {
    return this.timeline[0].start.chain.stages[this.stage]?.kind === 'convolution';
  }

  /** Frame from which on the next jump is made ready for; ∞ where there is none. */
  private get readyAt(): number {
    const { nextJump } = this;
    return nextJump < 0 ? Infinity : this.timeline[nextJump].from + this.late - this.readyFrames;
  }

  /** True once where it is time to get ready for the next jump. */
  becomesReady(frame: number): boolean {
    const { nextJump } = this;
    if (this.ready === nextJump || frame < this.readyAt) return false;
    this.ready = nextJump;
    return true;
  }

  /** How many frames from one on there are before anything has to be said. */
  runLength(frame: number, count: number): number {
    this.locate(frame);
    const next = this.timeline[this.at + 1];
    let frames = next ? Math.min(count, next.from + this.late - frame) : count;
    if (this.readyAt > frame) frames = Math.min(frames, this.readyAt - frame);
    if (this.moves) frames = Math.min(frames, MOVED_EVERY - (((frame % MOVED_EVERY) + MOVED_EVERY) % MOVED_EVERY));
    return frames;
  }

  /** How far what moves is on its way, a little ahead of itself. */
  share(frame: number, lead: number): number {
    const { from } = this.timeline[this.at];
    const next = this.timeline[this.at + 1];
    return Math.min(1, (frame - this.late + lead - from) / (next.from - from));
  }
}

/** What hears of the segments of a strip. */
export interface Following {
  /** @param segment what holds now. @param share how far it is on its way to its end. @param isNew false where only the share is another */
  followMixer(segment: TimelineSegment, share: number, immediately: boolean): void;
  followStage(stage: number, segment: TimelineSegment, share: number, isNew: boolean, immediately: boolean): void;
  /** @param segment what will hold before long */
  prepareStage(stage: number, segment: TimelineSegment): void;
}

/** Leads a strip through its timeline: every part of it hears of a border when the sound of that frame has come to it. */
export class Follower {
  private readonly mixer: Lane;
  private readonly stages: Lane[];
  private readonly lead: number;

  constructor(
    readonly timeline: Timeline,
    { stages, leaves }: StripPlaces,
    rateHz: number,
  ) {
    const ready = Math.round(READY_SECONDS * rateHz);
    this.mixer = new Lane(timeline, leaves, ready);
    this.stages = stages.map((late, i) => new Lane(timeline, late, ready, i));
    this.lead = Math.round(LEAD_SECONDS * rateHz);
  }

  /** What of the strip holds at a frame, as far as it holds at once. */
  stateAt(frame: number): TimelineSegment['start'] {
    this.mixer.locate(frame);
    return this.timeline[this.mixer.at].start;
  }

  to(frame: number, strip: Following, immediately = false): void {
    const { mixer, stages, lead } = this;
    const isTold = frame % MOVED_EVERY === 0;
    mixer.locate(frame);
    if (immediately || mixer.handed !== mixer.at || (isTold && mixer.moves)) {
      mixer.handed = mixer.at;
      strip.followMixer(this.timeline[mixer.at], mixer.moves ? mixer.share(frame, lead) : 0, immediately);
    }
    for (let i = 0; i < stages.length; i++) {
      const lane = stages[i];
      lane.locate(frame);
      const isNew = immediately || lane.handed !== lane.at;
      if (isNew || (isTold && lane.moves)) {
        lane.handed = lane.at;
        strip.followStage(i, this.timeline[lane.at], lane.moves ? lane.share(frame, lead) : 0, isNew, immediately);
      }
      // A jump that has come is made ready for again where a loop leads back to it.
      if (immediately || lane.at >= lane.ready) lane.ready = -1;
      while (lane.becomesReady(frame)) strip.prepareStage(i, this.timeline[lane.ready]);
    }
  }
}

/** What parts of a strip have borders of their own: by how late they are, and those that get ready for something. */
function lanesOf(timeline: Timeline, { leaves, stages }: StripPlaces, ready: number): Lane[] {
  const jumping = stages.flatMap((late, i) =>
    timeline[0].nextJumps[i] >= 0 ? [new Lane(timeline, late, ready, i)] : [],
  );
  const known = new Set(jumping.map(({ late }) => late));
  const others = new Set([leaves, ...stages].filter((late) => !known.has(late)));
  return [...jumping, ...[...others].map((late) => new Lane(timeline, late, ready))];
}

/** Where the blocks of a song are cut, so that every border of its passages is heard at its own sample. */
export class TimelineCuts {
  private readonly lanes: Lane[];

  constructor(strips: readonly { timeline: Timeline | null; places: StripPlaces }[], rateHz: number) {
    const ready = Math.round(READY_SECONDS * rateHz);
    this.lanes = strips.flatMap(({ timeline, places }) => (timeline ? lanesOf(timeline, places, ready) : []));
  }

  /** @returns how many frames from one on may be run at once, at least 1 */
  runLength(frame: number, count: number): number {
    let frames = count;
    for (let i = 0; i < this.lanes.length; i++) frames = this.lanes[i].runLength(frame, frames);
    return Math.max(1, frames);
  }
}

/** Where the blocks of a song are cut. */
export const cutsOf = (
  { tracks, buses, masterTimeline, rateHz }: CompiledSong,
  { places }: LatencyPlan,
): TimelineCuts =>
  new TimelineCuts(
    [
      ...tracks.map(({ timeline }, i) => ({ timeline, places: places.tracks[i] })),
      ...buses.map(({ timeline }, i) => ({ timeline, places: places.buses[i] })),
      { timeline: masterTimeline, places: places.master },
    ],
    rateHz,
  );
