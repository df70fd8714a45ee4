import { PAGE_FRAMES } from '@/core/engine';
import type { EngineMessage } from './messages';
import { PagePool, readInto } from './page-pool';

/** A recording that the engine needs. */
export interface NeededRecording {
  audioId: string;
  channels: 1 | 2;
  lengthFrames: number;
}

const AT_ONCE = 6;
/** Pages that are brought ahead of where the song stands before it plays: about ten seconds. */
const REACH = 8;
const TRIES = 4;
/** Samples that the audio thread holds at most, bytes: of a song that has more, only what lies about the playhead. */
export const MOST_BYTES = 256 * 2 ** 20;
/** Ahead of the playhead that is never less than so many pages. */
const LEAST_WINDOW = 3;
/** What lies before a place counts so many times its distance, and so does what lies at a place that is not the playhead. */
const BEHIND = 4;
const ELSEWHERE = 4;
/** A page is let go when it lies so many pages beyond the window, so that nothing goes to and fro. */
const SLACK = 1;
/** How often it is looked where the song stands while it may play. */
const LOOK_MS = 250;

/** How far a page is from the playhead, or from another place, in pages. @param places the playhead's page first */
const distanceOf = (page: number, places: readonly number[]) =>
  Math.min(
    ...places.map((place, i) => (page >= place ? page - place : (place - page) * BEHIND) * (i === 0 ? 1 : ELSEWHERE)),
  );

interface Wanted extends NeededRecording {
  missing: Set<number>;
  /** Pages that the audio thread has, and where they lie. */
  held: Map<number, SharedArrayBuffer>;
  /** Pages that could not be had. */
  failed: Set<number>;
}

/**
 * Brings the pages of the recordings to the audio thread: before the song plays, those from which it may start; once it plays, those at the
 * playhead first, then what follows, then the rest, as far as there is room; what is far away is let go again.
 */
export class Feeder {
  private readonly known = new Map<string, Wanted>();
  private readonly pool = new PagePool();
  private running = 0;
  private hasPlayed = false;
  private looking: ReturnType<typeof setInterval> | undefined;

  /**
   * @param post gives a message to the audio thread
   * @param places where the song stands, then where else it may start: frames
   * @param onProgress hears 0 to 1; 1 when everything is there
   * @param onError hears of a page that could not be had
   */
  constructor(
    private readonly post: (message: EngineMessage) => void,
    private readonly places: () => readonly number[],
    private readonly onProgress: (progress: number) => void,
    private readonly onError: (message: string) => void,
  ) {}

  /** The recordings of the song as it stands; others are forgotten. */
  need(recordings: readonly NeededRecording[]): void {
    const ids = new Set(recordings.map((recording) => recording.audioId));
    for (const id of this.known.keys()) {
      if (ids.has(id)) continue;
      for (const buffer of this.known.get(id)!.held.values()) this.pool.give(buffer);
      this.known.delete(id);
      this.post({ type: 'forget', audioId: id });
    }
    for (const recording of recordings) {
      if (this.known.has(recording.audioId)) continue;
      const pages = Math.ceil(recording.lengthFrames / PAGE_FRAMES);
      this.known.set(recording.audioId, {
        ...recording,
        missing: new Set(Array.from({ length: pages }, (_, page) => page)),
        held: new Map(),
        failed: new Set(),
      });
      this.post({
        type: 'recording',
        audioId: recording.audioId,
        channels: recording.channels,
        lengthFrames: recording.lengthFrames,
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
    this.looking ??= setInterval(() => this.bring(), LOOK_MS);
    this.bring();
  }

  close(): void {
    clearInterval(this.looking);
  }

  /** Asks again for what could not be had: the server is back. */
  again(): void {
    for (const { missing, failed } of this.known.values()) {
      for (const page of failed) missing.add(page);
      failed.clear();
    }
    this.bring();
  }

  /** How far ahead of the playhead there is room for, pages; all that there is for a song that fits. */
  private get window(): number {
    const aPage = [...this.known.values()].reduce((sum, { channels }) => sum + channels * PAGE_FRAMES * 4, 0);
    const whole = [...this.known.values()].reduce((sum, known) => sum + known.channels * known.lengthFrames * 4, 0);
    if (whole <= MOST_BYTES) return Infinity;
    // The playhead's window and what lies behind it, and the same about another place, which is shorter.
    const share = (1 + 1 / BEHIND) * (1 + 1 / ELSEWHERE);
    return Math.max(LEAST_WINDOW, Math.floor(MOST_BYTES / (aPage * share)));
  }

  /** The pages that are wanted now, the nearest first, and which are not to be let go. */
  private nearPages(): { wanted: number[]; soon: number[]; kept: Set<number> | null } {
    const places = this.places().map((frame) => Math.floor(frame / PAGE_FRAMES));
    const { window } = this;
    const reach = this.hasPlayed ? window : Math.min(window, REACH);
    const longest = Math.max(0, ...[...this.known.values()].map(({ lengthFrames }) => lengthFrames));
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

  private letGo({ kept }: { kept: Set<number> | null }): void {
    if (!kept) return;
    for (const { audioId, held, missing } of this.known.values()) {
      for (const [page, buffer] of held) {
        if (kept.has(page)) continue;
        held.delete(page);
        missing.add(page);
        this.post({ type: 'drop', audioId, page });
        this.pool.give(buffer);
      }
    }
  }

  private tellProgress({ soon }: { soon: readonly number[] }): void {
    let here = 0;
    let missing = 0;
    for (const { held, failed, lengthFrames } of this.known.values())
      for (const page of soon) {
        if (held.has(page)) here++;
        else if (page * PAGE_FRAMES < lengthFrames && !failed.has(page)) missing++;
      }
    this.onProgress(missing === 0 ? 1 : here / (here + missing));
  }

  private startNext({ wanted }: { wanted: readonly number[] }): boolean {
    for (const page of wanted) {
      for (const known of this.known.values()) {
        if (!known.missing.delete(page)) continue;
        this.running++;
        void this.fetchPage(known, page).finally(() => {
          this.running--;
          this.bring();
        });
        return true;
      }
    }
    return false;
  }

  private async fetchPage({ audioId, channels, lengthFrames, held, failed }: Wanted, page: number): Promise<void> {
    const frames = Math.min(PAGE_FRAMES, lengthFrames - page * PAGE_FRAMES);
    const memory = this.pool.take(frames * channels * 4);
    for (let attempt = 1; attempt <= TRIES; attempt++) {
      try {
        const response = await fetch(`/api/audio/${audioId}/pages/${page}`);
        if (!response.ok) throw new Error(`status ${response.status}`);
        await readInto(response, memory);
        held.set(page, memory);
        this.post({ type: 'page', audioId, page, samples: new Float32Array(memory) });
        return;
      } catch (error) {
        if (attempt === TRIES) {
          failed.add(page);
          this.pool.give(memory);
          this.onError(
            `Some of the sound could not be loaded (${(error as Error).message}). It is asked for again when the server is back.`,
          );
        } else await new Promise((done) => setTimeout(done, 300 * attempt));
      }
    }
  }
}
