import { packedBytes, type SampleBits } from '@/core/engine/packing/packed-samples';
import { AHEAD_FRAMES, PAGE_FRAMES } from '@/core/engine/source';
import { fetchPages, Refusal, type PageRoom } from './fetch-pages';
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
/** Pages in one request: what a request costs by itself is more than what a page costs. */
const TOGETHER = 4;
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
/** What lies before a place counts so many times its distance, and so does what lies at a place that is not the playhead. */
const BEHIND = 4;
const ELSEWHERE = 4;
/** It comes after the page at the playhead and the next one, which are needed first. */
const AFTER = 1.5;
/** A page is let go when it lies so many pages beyond the window, so that nothing goes to and fro. */
const SLACK = 1;
/** How often it is looked where the song stands once it has played, and whether there is room. */
const LOOK_MS = 250;
/** Until the audio thread has taken a seek, its goal counts as where the song stands. */
const SEEK_MS = 500;

/** What was heard a moment ago may still be on its way out. */
const FADING_MS = 200;

/** Over so long it is looked how fast pages come. */
const PACE_MS = 3000;
/** A server that has given nothing for so long does not answer. */
const SILENT_MS = 1500;

const pageOf = (frame: number) => Math.floor(frame / PAGE_FRAMES);

/** Where the song stands and may stand next, in pages. */
interface Places {
  at: number;
  /** The first page of the loop and its last; null where nothing is looped: then it begins again at the first page of the song. */
  again: { first: number; last: number } | null;
}

/**
 * How soon a page may be played, in pages: what follows first, round the loop where the song stands in one; what lies before, and what lies where it may start
 * again, counts as farther.
 */
function distanceOf(page: number, { at, again }: Places): number {
  const from = (place: number) => (page >= place ? page - place : (place - page) * BEHIND);
  const beginning = again?.first ?? 0;
  if (!again || at < again.first || at > again.last) return Math.min(from(at), AFTER + from(beginning) * ELSEWHERE);
  if (page >= at && page <= again.last) return page - at;
  if (page >= again.first && page < at) return again.last - at + 1 + page - again.first;
  // Only heard when the loop is left.
  return from(at) * ELSEWHERE;
}

interface Wanted extends FedRecording {
  missing: Set<number>;
  /** Pages that the audio thread has, and the slots in which they lie. */
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

/** A page on its way, and where it is going to lie. */
interface AskedPage {
  known: Wanted;
  page: number;
  slots: readonly number[];
}

/** The pages that are wanted now, the nearest first; those that are on their way all the time do not count as missing. */
interface NearPages {
  wanted: readonly number[];
  soon: readonly number[];
  /** What is not to be let go; null for everything. */
  kept: ReadonlySet<number> | null;
}

/**
 * Brings the pages of the recordings into the memory that the audio thread reads: before the song plays, those from which it may start; once it plays, those
 * at the playhead first, then what follows, then the rest, as far as there is room; what is far away is let go again.
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
  private told = -1;
  /** The pages that came last: when, and how many bytes. */
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
      for (const page of [...known.held.keys()]) this.drop(known, page);
      this.known.delete(known.audioId);
    }
    for (const recording of recordings) {
      const known = this.known.get(recording.audioId);
      if (known) {
        if (known.isHeard && !recording.isHeard) known.unheardSince = performance.now();
        known.isHeard = recording.isHeard;
        continue;
      }
      const pages = Math.ceil(recording.lengthFrames / PAGE_FRAMES);
      this.known.set(recording.audioId, {
        ...recording,
        missing: new Set(Array.from({ length: pages }, (_, page) => page)),
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
      for (const page of known.failed) known.missing.add(page);
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
    const aPage = heard.reduce((sum, { channels }) => sum + channels, 0);
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
    return {
      at: pageOf(Math.max(0, (this.goal?.frame ?? this.position()) - behind)),
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
    return { wanted: numbers(wanted), soon: numbers(soon), kept: window === Infinity ? null : new Set(kept) };
  }

  private drop(known: Wanted, page: number): void {
    const slots = known.held.get(page)!;
    const table = new Int32Array(known.table);
    for (let c = 0; c < known.channels; c++) Atomics.store(table, page * known.channels + c, 0);
    known.held.delete(page);
    known.missing.add(page);
    this.pool.give(slots);
  }

  private letGo({ kept }: NearPages): void {
    if (!kept) return;
    // What is heard until a seek is taken stays as well.
    const heard = pageOf(Math.max(0, this.position() - this.reach.behind));
    for (const known of this.known.values())
      for (const page of [...known.held.keys()])
        if (!kept.has(page) && page !== heard && page !== heard + 1) this.drop(known, page);
  }

  /** Room for a page; what is not heard gives way, once the audio thread has let go of it. */
  private slotsOfPage(channels: number): number[] | null {
    const slots = this.pool.reserve(channels);
    if (slots) return slots;
    const now = performance.now();
    for (const known of this.known.values())
      if (!known.isHeard && now - known.unheardSince > FADING_MS)
        for (const page of [...known.held.keys()]) this.drop(known, page);
    return null;
  }

  private tellProgress({ soon }: NearPages): void {
    let here = 0;
    let missing = 0;
    for (const { held, failed, lengthFrames } of this.heard)
      for (const page of soon) {
        if (held.has(page)) here++;
        else if (page * PAGE_FRAMES < lengthFrames && !failed.has(page)) missing++;
      }
    const progress = missing === 0 ? 1 : here / (here + missing);
    if (progress !== this.told) this.onProgress(progress);
    this.told = progress;
  }

  /** Asks for the next pages in one request. @returns false where there is nothing more to ask for, or no room */
  private startNext(near: NearPages): boolean {
    const asked: AskedPage[] = [];
    for (const next of this.missing(near)) {
      const isTroubled = next.known.isDamaged || next.known.refused.has(next.page);
      if (isTroubled && asked.length > 0) continue;
      const slots = this.slotsOfPage(next.known.channels);
      if (!slots) {
        // There is room in a moment.
        this.lookOnAndOn();
        break;
      }
      asked.push({ ...next, slots });
      if (isTroubled || asked.length === TOGETHER) break;
    }
    if (asked.length === 0) return false;
    for (const { known, page } of asked) known.missing.delete(page);
    if (this.running++ === 0) this.waitingSince = performance.now();
    void this.bringPages(asked).finally(() => {
      this.running--;
      this.bring();
    });
    return true;
  }

  /** What is missing of what is wanted now, in that order. */
  private *missing({ wanted }: NearPages): Generator<Omit<AskedPage, 'slots'>> {
    const { heard } = this;
    for (const isDamaged of [false, true])
      for (const page of wanted)
        for (const known of heard) if (known.isDamaged === isDamaged && known.missing.has(page)) yield { known, page };
  }

  private noteArrival(bytes: number): void {
    const now = performance.now();
    this.waitingSince = now;
    this.arrivals = [...this.arrivals.filter(({ at }) => now - at < PACE_MS), { at: now, bytes }];
  }

  private async bringPages(asked: readonly AskedPage[]): Promise<void> {
    for (let attempt = 1; asked.some(({ known }) => !known.isForgotten); attempt++) {
      let here = 0;
      try {
        const pages = asked.map((wanted) => this.roomFor(wanted));
        await fetchPages(pages, (bits) => this.store(asked[here++], bits));
        return;
      } catch (error) {
        const left = asked.slice(here);
        for (const { known, page } of left) known.refused.add(page);
        if (asked.length > 1) {
          // One of them may be at fault: each is asked for by itself.
          for (const { known, page } of left) known.missing.add(page);
          return this.pool.give(left.flatMap(({ slots }) => slots));
        }
        const isRefusal = error instanceof Refusal;
        if (isRefusal || attempt === TRIES) {
          const [{ known, page }] = left;
          known.isDamaged ||= isRefusal;
          known.failed.add(page);
          this.onError(`Some of the sound could not be loaded: ${(error as Error).message}`);
          break;
        }
        await new Promise((done) => setTimeout(done, 300 * attempt));
      }
    }
    this.pool.give(asked.flatMap(({ slots }) => slots));
  }

  /** A page, and the memory of its slots. */
  private roomFor({ known, page, slots }: AskedPage): PageRoom {
    const sides = slots.map((slot) => this.slots[slot].subarray(0, framesOf(known, page)));
    return { audioId: known.audioId, page, sides };
  }

  /** A page is in its slots: the audio thread may read it. */
  private store({ known, page, slots }: AskedPage, bits: SampleBits): void {
    if (known.isForgotten) return this.pool.give(slots);
    const { channels } = known;
    known.held.set(page, slots);
    known.refused.delete(page);
    const table = new Int32Array(known.table);
    slots.forEach((slot, c) => Atomics.store(table, page * channels + c, slot + 1));
    known.bits = bits;
    this.noteArrival(packedBytes(framesOf(known, page) * channels, bits));
  }
}

const framesOf = ({ lengthFrames }: Wanted, page: number) => Math.min(PAGE_FRAMES, lengthFrames - page * PAGE_FRAMES);
