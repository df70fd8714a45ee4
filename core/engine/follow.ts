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

  /** The first frame after one at which something has to be said, but for what moves; ∞ where there is none. @param frame where it is located */
  nextSaid(frame: number): number {
    const next = this.timeline[this.at + 1];
    const border = next ? next.from + this.late : Infinity;
    const { readyAt } = this;
    return readyAt > frame ? Math.min(border, readyAt) : border;
  }

  /** How far what moves is on its way, a little ahead of itself. */
  share(frame: number, lead: number): number {
    const { from } = this.timeline[this.at];
    const next = this.timeline[this.at + 1];
    return Math.min(1, (frame - this.late + lead - from) / (next.from - from));
  }
}

/** A stretch of the song in which nothing begins, ends or gets ready; something may move. */
class Quiet {
  private from = Infinity;
  private until = -Infinity;
  moves = false;

  /** @param lanes those that are asked, located at `frame` */
  begin(frame: number, lanes: readonly Lane[]): void {
    this.from = frame;
    this.until = Infinity;
    this.moves = false;
    for (let i = 0; i < lanes.length; i++) {
      this.until = Math.min(this.until, lanes[i].nextSaid(frame));
      this.moves ||= lanes[i].moves;
    }
  }

  includes(frame: number): boolean {
    return frame >= this.from && frame < this.until;
  }

  /** Frames from one inside on to its end, or to where what moves is told next. */
  lengthFrom(frame: number, count: number): number {
    const frames = Math.min(count, this.until - frame);
    return this.moves ? Math.min(frames, MOVED_EVERY - (((frame % MOVED_EVERY) + MOVED_EVERY) % MOVED_EVERY)) : frames;
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
  private readonly lanes: Lane[];
  private readonly quiet = new Quiet();
  private readonly lead: number;

  constructor(
    readonly timeline: Timeline,
    { stages, leaves }: StripPlaces,
    rateHz: number,
  ) {
    const ready = Math.round(READY_SECONDS * rateHz);
    this.mixer = new Lane(timeline, leaves, ready);
    this.stages = stages.map((late, i) => new Lane(timeline, late, ready, i));
    this.lanes = [this.mixer, ...this.stages];
    this.lead = Math.round(LEAD_SECONDS * rateHz);
  }

  /** What of the strip holds at a frame, as far as it holds at once. */
  stateAt(frame: number): TimelineSegment['start'] {
    this.mixer.locate(frame);
    return this.timeline[this.mixer.at].start;
  }

  to(frame: number, strip: Following, immediately = false): void {
    const { mixer, stages, quiet } = this;
    const isTold = frame % MOVED_EVERY === 0;
    if (!immediately && quiet.includes(frame)) {
      if (isTold && quiet.moves) this.tellMoves(frame, strip);
      return;
    }
    mixer.locate(frame);
    if (immediately || mixer.handed !== mixer.at) this.handMixer(frame, strip, immediately);
    else if (isTold && mixer.moves) this.handMixer(frame, strip, false);
    for (let i = 0; i < stages.length; i++) {
      const lane = stages[i];
      lane.locate(frame);
      if (immediately || lane.handed !== lane.at) this.handStage(i, frame, strip, true, immediately);
      else if (isTold && lane.moves) this.handStage(i, frame, strip, false, false);
      // A jump that has come is made ready for again where a loop leads back to it.
      if (immediately || lane.at >= lane.ready) lane.ready = -1;
      while (lane.becomesReady(frame)) strip.prepareStage(i, this.timeline[lane.ready]);
    }
    quiet.begin(frame, this.lanes);
  }

  /** Where nothing else is to be said. */
  private tellMoves(frame: number, strip: Following): void {
    const { mixer, stages } = this;
    if (mixer.moves) this.handMixer(frame, strip, false);
    for (let i = 0; i < stages.length; i++) if (stages[i].moves) this.handStage(i, frame, strip, false, false);
  }

  private handMixer(frame: number, strip: Following, immediately: boolean): void {
    const { mixer, lead } = this;
    mixer.handed = mixer.at;
    strip.followMixer(this.timeline[mixer.at], mixer.moves ? mixer.share(frame, lead) : 0, immediately);
  }

  private handStage(i: number, frame: number, strip: Following, isNew: boolean, immediately: boolean): void {
    const lane = this.stages[i];
    lane.handed = lane.at;
    const share = lane.moves ? lane.share(frame, this.lead) : 0;
    strip.followStage(i, this.timeline[lane.at], share, isNew, immediately);
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
  private readonly quiet = new Quiet();

  constructor(strips: readonly { timeline: Timeline | null; places: StripPlaces }[], rateHz: number) {
    const ready = Math.round(READY_SECONDS * rateHz);
    this.lanes = strips.flatMap(({ timeline, places }) => (timeline ? lanesOf(timeline, places, ready) : []));
  }

  /** @returns how many frames from one on may be run at once, at least 1 */
  runLength(frame: number, count: number): number {
    const { lanes, quiet } = this;
    if (!quiet.includes(frame)) {
      for (let i = 0; i < lanes.length; i++) lanes[i].locate(frame);
      quiet.begin(frame, lanes);
    }
    return Math.max(1, quiet.lengthFrom(frame, count));
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
