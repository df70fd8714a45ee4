import { packedBytes, type SampleBits } from '@/core/engine/packing/packed-samples';
import { AHEAD_FRAMES, PAGE_FRAMES, PIECE_FRAMES, PIECES_OF_PAGE } from '@/core/engine/source';
import { fetchPieces, Refusal, type PieceRoom } from './fetch-pieces';
import {
  BEHIND,
  distanceOf,
  ELSEWHERE,
  pageOf,
  pageOfPiece,
  pieceOf,
  piecesIn,
  piecesOfPage,
  type Places,
} from './places';
import { SlotPool, slotsFor, slotsOf } from './sample-memory';

/** A recording that the engine needs. */
export interface NeededRecording {
  audioId: string;
  channels: 1 | 2;
  lengthFrames: number;
}

/** A recording as the feeder brings it. */
export interface FedRecording extends NeededRecording {
  /** Where the feeder tells the audio thread in which slots pages lie. */
  table: SharedArrayBuffer;
  /** False where a mute or a solo leaves it out: then nothing is brought of it. */
  isHeard: boolean;
}

/**
 * Requests that are on their way at once: fewer than the six connections that a browser makes to one server, so that edits and measurements do not wait
 * for sound, and few enough that a seek does not wait for much else.
 */
const AT_ONCE = 2;
/** Pieces in one request, about: what a request costs by itself is more than what a page costs. */
const TOGETHER = 4 * PIECES_OF_PAGE;
/** What is heard next is brought of all tracks before anything else: first what a start waits for, then what is heard until the rest is here. */
const NEXT_SECONDS = [0.26, 0.6];
/** Pages that are brought of where the song may start before it plays: some three seconds, in which the rest begins to come. */
const REACH = 2;
const TRIES = 4;
/** Samples that are held of a song, bytes: of one that has more, only what lies about the playhead … */
const USUAL_BYTES = 128 * 2 ** 20;
/** … and of one of very many tracks as much as its window needs, up to this. */
export const MOST_BYTES = 256 * 2 ** 20;
/** Ahead of the playhead that is never less than so many pages … */
const LEAST_WINDOW = 3;
/** … for which, and for the page where it may start again, there has to be room. */
const LEAST_PAGES = LEAST_WINDOW + 1;
/** A page is let go when it lies so many pages beyond the window, so that nothing goes to and fro. */
const SLACK = 1;
/** How often it is looked where the song stands once it has played, and whether there is room. */
const LOOK_MS = 250;
/** Progress is told no more often than this: whoever shows it draws anew. */
const TELL_MS = 150;
/** Until the audio thread has taken a seek, its goal counts as where the song stands. */
const SEEK_MS = 500;

/** What was heard a moment ago may still be on its way out. */
const FADING_MS = 200;

/** Over so long it is looked how fast pages come. */
const PACE_MS = 3000;
/** What comes within so long counts as one arrival. */
const ARRIVALS_MS = 50;
/** A server that has given nothing for so long does not answer. */
const SILENT_MS = 1500;

interface Wanted extends FedRecording {
  /** Pieces that are not here, nor on their way. */
  missing: Set<number>;
  /** Pieces that the audio thread has, and the slots in which they lie. */
  held: Map<number, readonly number[]>;
  /** In how many bits its pages come, as far as is known. */
  bits: SampleBits;
  /** Pages that could not be had. */
  failed: Set<number>;
  /** Pages of which the last try failed, those that could not be had among them: they are asked for by themselves. */
  refused: Set<number>;
  /** Since when it is not heard. */
  unheardSince: number;
  /** True where the server has said of a page that it has it not: the others are asked for after everything else. */
  isDamaged: boolean;
  isForgotten: boolean;
}

/** Pieces of a page of a recording, one after the other. */
interface Run {
  known: Wanted;
  page: number;
  pieces: readonly number[];
}

/** A run on its way, and where each piece is going to lie. */
interface AskedRun extends Run {
  slots: readonly (readonly number[])[];
}

/** The pages that are wanted now, the nearest first; those that are on their way all the time do not count as missing. */
interface NearPages {
  /** The pieces that come before all pages. */
  next: readonly (readonly number[])[];
  wanted: readonly number[];
  soon: readonly number[];
  /** What is not to be let go; null for everything. */
  kept: ReadonlySet<number> | null;
}

/**
 * Brings the pages of the recordings, piece by piece, into the memory that the audio thread reads: before the song plays, those from which it may start; once
 * it plays, those at the playhead first, then what follows, then the rest, as far as there is room; what is far away is let go again.
 */
export class Feeder {
  private readonly known = new Map<string, Wanted>();
  private readonly slots: readonly Float32Array[];
  private readonly pool: SlotPool;
  private running = 0;
  private hasPlayed = false;
  private loop: { start: number; end: number } | null = null;
  /** How far before, and behind, the playhead tracks are read that have a delay, frames. */
  private reach = { behind: 0, ahead: 0 };
  private goal: { frame: number; until: number } | null = null;
  private looking: ReturnType<typeof setInterval> | undefined;
  private told = { progress: -1, at: -Infinity };
  /** What came last: when, and how many bytes. */
  private arrivals: { at: number; bytes: number }[] = [];
  /** Since when pages are on their way without a break, or the last one came. */
  private waitingSince = 0;

  /**
   * @param memory for samples, which the audio thread has too
   * @param rateHz of the song
   * @param position where the song stands, frames
   * @param onProgress hears 0 to 1; 1 when everything is there that is wanted now
   * @param onError hears of a page that could not be had
   */
  constructor(
    memory: SharedArrayBuffer,
    private readonly rateHz: number,
    private readonly position: () => number,
    private readonly onProgress: (progress: number) => void,
    private readonly onError: (message: string) => void,
  ) {
    this.slots = slotsOf(memory);
    this.pool = new SlotPool(0);
  }

  /**
   * The recordings of the song as it stands; others are forgotten.
   * @param reach how far behind the playhead, and ahead of it, they are read, frames
   */
  need(recordings: readonly FedRecording[], reach = { behind: 0, ahead: 0 }): void {
    this.reach = reach;
    const ids = new Set(recordings.map((recording) => recording.audioId));
    for (const known of [...this.known.values()]) {
      if (ids.has(known.audioId)) continue;
      known.isForgotten = true;
      this.drop(known);
      this.known.delete(known.audioId);
    }
    for (const recording of recordings) {
      const known = this.known.get(recording.audioId);
      if (known) {
        if (known.isHeard && !recording.isHeard) known.unheardSince = performance.now();
        known.isHeard = recording.isHeard;
        continue;
      }
      this.known.set(recording.audioId, {
        ...recording,
        missing: new Set(piecesIn(0, Math.ceil(recording.lengthFrames / PIECE_FRAMES))),
        held: new Map(),
        bits: 32,
        failed: new Set(),
        refused: new Set(),
        unheardSince: -Infinity,
        isDamaged: false,
        isForgotten: false,
      });
    }
    this.bring();
  }

  /** Looks again for what is to be brought: where the song stands somewhere else. */
  bring(): void {
    const near = this.nearPages();
    this.letGo(near);
    while (this.running < AT_ONCE && this.startNext(near));
    this.tellProgress(near);
  }

  /** From the first start on everything is brought that there is room for. */
  playing(): void {
    this.hasPlayed = true;
    this.lookOnAndOn();
    this.bring();
  }

  private lookOnAndOn(): void {
    this.looking ??= setInterval(() => this.bring(), LOOK_MS);
  }

  /** @param loop what is looped, frames; null where nothing is */
  setLoop(loop: { start: number; end: number } | null): void {
    this.loop = loop;
    this.bring();
  }

  /** Where the song is going to stand in a moment. */
  seek(frame: number): void {
    this.goal = { frame, until: performance.now() + SEEK_MS };
    this.bring();
  }

  close(): void {
    clearInterval(this.looking);
  }

  /** Asks again for what could not be had: the server is back. */
  again(): void {
    for (const known of this.known.values()) {
      for (const page of known.failed) this.miss(known, piecesOfPage(page));
      known.failed.clear();
      known.isDamaged = false;
    }
    this.bring();
  }

  /** Why sound came too late just now, in words that follow a colon. */
  whyLate(): string {
    const { heard } = this;
    if (heard.some(({ refused }) => refused.size > 0)) return 'the server did not give some of it';
    const now = performance.now();
    if (this.running > 0 && now - this.waitingSince > SILENT_MS) return 'the server does not answer';
    const megabytes = (bytes: number) => (bytes / 1e6).toFixed(1);
    const needed = heard.reduce((sum, { channels, bits }) => sum + packedBytes(channels * this.rateHz, bits), 0);
    const recent = this.arrivals.filter(({ at }) => now - at < PACE_MS);
    const came = recent.reduce((sum, { bytes }) => sum + bytes, 0) / (PACE_MS / 1000);
    if (came < needed) return `${megabytes(came)} of the ${megabytes(needed)} MB a second that it needs came`;
    return 'it was asked for only a moment before';
  }

  private get heard(): Wanted[] {
    return [...this.known.values()].filter(({ isHeard }) => isHeard);
  }

  /** How far ahead of the playhead there is room for, pages; all that there is for a song that fits. */
  private get window(): number {
    const { heard, pool, slots } = this;
    const aPage = heard.reduce((sum, { channels }) => sum + channels * PIECES_OF_PAGE, 0);
    // What was given out once stays in use.
    const usual = Math.floor(USUAL_BYTES / slots[0].byteLength);
    pool.limit = Math.min(slots.length, Math.max(pool.limit, usual, LEAST_PAGES * aPage));
    const whole = heard.reduce((sum, { channels, lengthFrames }) => sum + slotsFor(channels, lengthFrames), 0);
    if (whole <= pool.limit) return Infinity;
    // The playhead's window and what lies behind it, and the same about another place, which is shorter.
    const share = (1 + 1 / BEHIND) * (1 + 1 / ELSEWHERE);
    return Math.max(LEAST_WINDOW, Math.floor(pool.limit / (aPage * share)));
  }

  private get places(): Places {
    if (this.goal && performance.now() > this.goal.until) this.goal = null;
    const { loop } = this;
    const { behind, ahead } = this.reach;
    const stands = this.goal?.frame ?? this.position();
    const from = Math.max(0, stands - behind);
    return {
      at: pageOf(from),
      next: NEXT_SECONDS.map((seconds) => pieceOf(stands + ahead + seconds * this.rateHz) + 1).map((end, i, ends) =>
        piecesIn(i === 0 ? pieceOf(from) : ends[i - 1], end),
      ),
      // The audio thread looks a little ahead, also over the end of a loop.
      again: loop && {
        first: pageOf(Math.max(0, loop.start - behind)),
        last: pageOf(loop.end + AHEAD_FRAMES + ahead),
      },
    };
  }

  private nearPages(): NearPages {
    const { window, places } = this;
    const reach = this.hasPlayed ? window : Math.min(window, REACH);
    const longest = Math.max(0, ...this.heard.map(({ lengthFrames }) => lengthFrames));
    const all = Array.from({ length: Math.ceil(longest / PAGE_FRAMES) }, (_, page) => ({
      page,
      distance: distanceOf(page, places),
    }));
    const wanted = all.filter(({ distance }) => distance < reach).sort((a, b) => a.distance - b.distance);
    const kept = all.filter(({ distance }) => distance < window + SLACK).map(({ page }) => page);
    const numbers = (pages: readonly { page: number }[]) => pages.map(({ page }) => page);
    // In a song that is held in part, more is always on its way.
    const soon = window === Infinity ? wanted : wanted.filter(({ distance }) => distance < reach / 2);
    return {
      next: places.next,
      wanted: numbers(wanted),
      soon: numbers(soon),
      kept: window === Infinity ? null : new Set(kept),
    };
  }

  /** Lets go of pieces that the audio thread has. @param isLetGo tells of which pages; all where it is left out */
  private drop(known: Wanted, isLetGo: (page: number) => boolean = () => true): void {
    const { held, channels, missing } = known;
    const table = new Int32Array(known.table);
    for (const [piece, slots] of held) {
      if (!isLetGo(pageOfPiece(piece))) continue;
      for (let c = 0; c < channels; c++) Atomics.store(table, piece * channels + c, 0);
      held.delete(piece);
      missing.add(piece);
      this.pool.give(slots);
    }
  }

  /** Pieces are to be brought, as far as the recording has them and they are not here. */
  private miss({ missing, held, lengthFrames }: Wanted, pieces: readonly number[]): void {
    for (const piece of pieces) if (piece * PIECE_FRAMES < lengthFrames && !held.has(piece)) missing.add(piece);
  }

  private letGo({ kept }: NearPages): void {
    if (!kept) return;
    // What is heard until a seek is taken stays as well.
    const heard = pageOf(Math.max(0, this.position() - this.reach.behind));
    for (const known of this.known.values())
      this.drop(known, (page) => !kept.has(page) && page !== heard && page !== heard + 1);
  }

  /** Room for pieces; what is not heard gives way, once the audio thread has let go of it. */
  private reserve({ known: { channels }, pieces }: Run): number[][] | null {
    const slots = this.pool.reserve(channels * pieces.length);
    if (slots) return pieces.map((_, i) => slots.slice(i * channels, (i + 1) * channels));
    const now = performance.now();
    for (const known of this.known.values())
      if (!known.isHeard && now - known.unheardSince > FADING_MS) this.drop(known);
    return null;
  }

  private tellProgress({ soon }: NearPages): void {
    let here = 0;
    let missing = 0;
    const pieces = soon.flatMap(piecesOfPage);
    for (const { held, failed, lengthFrames } of this.heard)
      for (const piece of pieces) {
        if (held.has(piece)) here++;
        else if (piece * PIECE_FRAMES < lengthFrames && !failed.has(pageOfPiece(piece))) missing++;
      }
    const progress = missing === 0 ? 1 : here / (here + missing);
    const now = performance.now();
    if (progress === this.told.progress || (progress < 1 && this.told.progress < 1 && now - this.told.at < TELL_MS))
      return;
    this.told = { progress, at: now };
    this.onProgress(progress);
  }

  /** Asks for the next pieces in one request. @returns false where there is nothing more to ask for, or no room */
  private startNext(near: NearPages): boolean {
    const asked: AskedRun[] = [];
    let pieces = 0;
    for (const run of this.missing(near)) {
      if (isTroubled(run) && asked.length > 0) continue;
      const slots = this.reserve(run);
      if (!slots) {
        // There is room in a moment.
        this.lookOnAndOn();
        break;
      }
      asked.push({ ...run, slots });
      for (const piece of run.pieces) run.known.missing.delete(piece);
      pieces += run.pieces.length;
      if (isTroubled(run) || pieces >= TOGETHER) break;
    }
    if (asked.length === 0) return false;
    if (this.running++ === 0) this.waitingSince = performance.now();
    void this.bringRuns(asked).finally(() => {
      this.running--;
      this.bring();
    });
    return true;
  }

  /** What is missing of what is wanted now, in that order. */
  private *missing({ next, wanted }: NearPages): Generator<Run> {
    const { heard } = this;
    const [standsAt] = next[0];
    const isPassed = (piece: number) => piece < standsAt && pageOfPiece(piece) === pageOfPiece(standsAt);
    const pages = wanted.map(piecesOfPage);
    const inOrder = [...next, ...pages.map((pieces) => pieces.filter((piece) => !isPassed(piece))), ...pages];
    for (const isDamaged of [false, true])
      for (const pieces of inOrder)
        for (const known of heard) {
          if (known.isDamaged !== isDamaged) continue;
          for (const run of runsOf(known, pieces))
            // Of what is in trouble a page is asked for as a whole.
            if (isTroubled(run)) yield* runsOf(known, piecesOfPage(run.page));
            else yield run;
        }
  }

  private noteArrival(bytes: number): void {
    const now = performance.now();
    this.waitingSince = now;
    const last = this.arrivals.at(-1);
    if (last && now - last.at < ARRIVALS_MS) last.bytes += bytes;
    else this.arrivals = [...this.arrivals.filter(({ at }) => now - at < PACE_MS), { at: now, bytes }];
  }

  private async bringRuns(asked: readonly AskedRun[]): Promise<void> {
    const all = asked.flatMap((run) => run.pieces.map((piece, i) => ({ run, piece, slots: run.slots[i] })));
    const giveBack = (from: number) => all.slice(from).forEach(({ slots }) => this.pool.give(slots));
    for (let attempt = 1; asked.some(({ known }) => !known.isForgotten); attempt++) {
      let here = 0;
      try {
        await fetchPieces(
          asked.map((run) => this.roomFor(run)),
          (bits) => {
            const { run, piece, slots } = all[here++];
            this.store(run.known, piece, slots, bits);
          },
        );
        return;
      } catch (error) {
        const left = all.slice(here);
        for (const { run } of left) run.known.refused.add(run.page);
        if (here > 0 || asked.some(({ known, page }) => known !== asked[0].known || page !== asked[0].page)) {
          // One of them may be at fault: each is asked for by itself.
          for (const { run, piece } of left) this.miss(run.known, [piece]);
          return giveBack(here);
        }
        const isRefusal = error instanceof Refusal;
        if (isRefusal || attempt === TRIES) {
          const [{ known, page }] = asked;
          known.isDamaged ||= isRefusal;
          known.failed.add(page);
          this.onError(`Some of the sound could not be loaded: ${(error as Error).message}`);
          break;
        }
        await new Promise((done) => setTimeout(done, 300 * attempt));
      }
    }
    giveBack(0);
  }

  /** Some pieces, and the memory of their slots. */
  private roomFor({ known, pieces, slots }: AskedRun): PieceRoom {
    const sides = pieces.map((piece, i) =>
      slots[i].map((slot) => this.slots[slot].subarray(0, framesOf(known, piece))),
    );
    return { audioId: known.audioId, first: pieces[0], sides };
  }

  /** A piece is in its slots: the audio thread may read it. */
  private store(known: Wanted, piece: number, slots: readonly number[], bits: SampleBits): void {
    if (known.isForgotten || known.held.has(piece)) return this.pool.give(slots);
    const { channels } = known;
    known.held.set(piece, slots);
    known.refused.delete(pageOfPiece(piece));
    const table = new Int32Array(known.table);
    slots.forEach((slot, c) => Atomics.store(table, piece * channels + c, slot + 1));
    known.bits = bits;
    this.noteArrival(packedBytes(framesOf(known, piece) * channels, bits));
  }
}

const framesOf = ({ lengthFrames }: Wanted, piece: number) =>
  Math.min(PIECE_FRAMES, lengthFrames - piece * PIECE_FRAMES);

/** True for what is asked for by itself. */
const isTroubled = ({ known, page }: Run) => known.isDamaged || known.refused.has(page);

/** Those of some pieces in a row that are missing of a recording, as runs that lie in one page each. */
function* runsOf(known: Wanted, pieces: readonly number[]): Generator<Run> {
  let run: number[] = [];
  for (const piece of pieces) {
    const isMissing = known.missing.has(piece);
    if (run.length > 0 && (!isMissing || piece % PIECES_OF_PAGE === 0)) {
      yield { known, page: pageOfPiece(run[0]), pieces: run };
      run = [];
    }
    if (isMissing) run.push(piece);
  }
  if (run.length > 0) yield { known, page: pageOfPiece(run[0]), pieces: run };
}
