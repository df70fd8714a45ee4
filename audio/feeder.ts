import { PAGE_FRAMES } from '@/core/engine';
import type { EngineMessage } from './messages';

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

/** How far a page is from the nearest of some places, in pages; what lies before them counts four times. */
const distanceOf = (page: number, places: readonly number[]) =>
  Math.min(...places.map((place) => (page >= place ? page - place : (place - page) * 4)));

interface Wanted extends NeededRecording {
  missing: Set<number>;
  /** Pages that could not be had. */
  failed: Set<number>;
}

/**
 * Brings the pages of the recordings to the audio thread: before the song plays, those from which it may start; once it plays, those at the
 * playhead first, then what follows, then the rest.
 */
export class Feeder {
  private readonly known = new Map<string, Wanted>();
  private running = 0;
  private arrived = 0;
  private hasPlayed = false;

  /**
   * @param post gives a message to the audio thread
   * @param places where the song stands, and where else it may start: frames
   * @param onProgress hears 0 to 1; 1 when everything is there
   * @param onError hears of a page that could not be had
   */
  constructor(
    private readonly post: (message: EngineMessage, transfer?: Transferable[]) => void,
    private readonly places: () => readonly number[],
    private readonly onProgress: (progress: number) => void,
    private readonly onError: (message: string) => void,
  ) {}

  /** The recordings of the song as it stands; others are forgotten. */
  need(recordings: readonly NeededRecording[]): void {
    const ids = new Set(recordings.map((recording) => recording.audioId));
    for (const id of this.known.keys()) {
      if (ids.has(id)) continue;
      this.known.delete(id);
      this.post({ type: 'forget', audioId: id });
    }
    for (const recording of recordings) {
      if (this.known.has(recording.audioId)) continue;
      const pages = Math.ceil(recording.lengthFrames / PAGE_FRAMES);
      this.known.set(recording.audioId, {
        ...recording,
        missing: new Set(Array.from({ length: pages }, (_, page) => page)),
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
    while (this.running < AT_ONCE && this.startNext());
    this.tellProgress();
  }

  /** From the first start on everything is brought. */
  playing(): void {
    this.hasPlayed = true;
    this.bring();
  }

  /** Asks again for what could not be had: the server is back. */
  again(): void {
    for (const { missing, failed } of this.known.values()) {
      for (const page of failed) missing.add(page);
      failed.clear();
    }
    this.bring();
  }

  private tellProgress(): void {
    const places = this.pagesOfPlaces();
    let missing = this.running;
    for (const wanted of this.known.values())
      for (const page of wanted.missing) if (this.isWanted(distanceOf(page, places))) missing++;
    this.onProgress(missing === 0 ? 1 : this.arrived / (this.arrived + missing));
  }

  private readonly pagesOfPlaces = () => this.places().map((frame) => Math.floor(frame / PAGE_FRAMES));
  private readonly isWanted = (distance: number) => this.hasPlayed || distance < REACH;

  private startNext(): boolean {
    const places = this.pagesOfPlaces();
    let best: { wanted: Wanted; page: number; distance: number } | null = null;
    for (const wanted of this.known.values()) {
      for (const page of wanted.missing) {
        const distance = distanceOf(page, places);
        if (!this.isWanted(distance)) continue;
        if (!best || distance < best.distance) best = { wanted, page, distance };
      }
    }
    if (!best) return false;
    best.wanted.missing.delete(best.page);
    this.running++;
    void this.fetchPage(best.wanted.audioId, best.page).finally(() => {
      this.running--;
      this.arrived++;
      this.bring();
    });
    return true;
  }

  private async fetchPage(audioId: string, page: number): Promise<void> {
    for (let attempt = 1; attempt <= TRIES; attempt++) {
      try {
        const response = await fetch(`/api/audio/${audioId}/pages/${page}`);
        if (!response.ok) throw new Error(`status ${response.status}`);
        const samples = new Float32Array(await response.arrayBuffer());
        this.post({ type: 'page', audioId, page, samples }, [samples.buffer]);
        return;
      } catch (error) {
        if (attempt === TRIES) {
          this.known.get(audioId)?.failed.add(page);
          this.onError(
            `Some of the sound could not be loaded (${(error as Error).message}). It is asked for again when the server is back.`,
          );
        } else await new Promise((done) => setTimeout(done, 300 * attempt));
      }
    }
  }
}
