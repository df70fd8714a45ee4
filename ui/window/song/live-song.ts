import { emptySong, type Song } from '@/core/song';
import type { Desk } from '../desk/desk';
import { openSongState, type PreviewOwner, type SongState } from './song-state';

const whole = (song: Song) => song;

/** A state as it is shown: its songs are what is shown of them. */
export type ShownState = SongState & {
  /** The song itself, or a moment of its past in its place, whatever is shown of it. */
  document: Song;
};

/** While something is dragged, lists and figures follow this often. */
const FOLLOW_MS = 125;

/**
 * The song as it is at this moment, also in the middle of a drag. What is heard and what is drawn follow it at once; React follows
 * `useSongStore`, which is told a few times a second while a drag goes on, and of everything else at once.
 */
export class LiveSong {
  state = openSongState(emptySong('Song'), 0);
  /** What is shown of a document: all of it, or as a passage makes it while that is open. */
  private view: (song: Song) => Song = whole;
  /** What stands in place of a document: a moment of its past, while one is visited. */
  private past: (song: Song) => Song = whole;
  private readonly listeners = new Set<(song: Song, before: Song) => void>();
  private readonly readers = new Set<(state: ShownState) => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  /**
   * @param options.isDrag true for one of many states of a drag: lists and figures may follow later
   * @param options.endedBy who ends its preview itself and need not be told
   */
  accept(state: SongState, { isDrag = false, endedBy }: { isDrag?: boolean; endedBy?: PreviewOwner } = {}): void {
    const before = this.state;
    if (state === before) return;
    const shownBefore = this.shown;
    this.state = state;
    if (state.song !== before.song) for (const listener of this.listeners) listener(this.shown, shownBefore);
    if (isDrag) this.timer ??= setTimeout(this.tellReaders, FOLLOW_MS);
    else this.tellReaders();
    for (const { owner } of before.previews)
      if (owner !== endedBy && !state.previews.some((preview) => preview.owner === owner)) owner.onLost?.();
  }

  /** The song, or a moment of its past in its place. */
  get document(): Song {
    return this.past(this.state.song);
  }

  /** The song as it is shown. */
  get shown(): Song {
    return this.view(this.document);
  }

  /** The same without what is only tried. */
  get shownSettled(): Song {
    return this.view(this.past(this.state.settled));
  }

  /** Shows documents in another way; null as they are. @param view gives the same object for the same document */
  showAs(view: ((song: Song) => Song) | null): void {
    this.change(() => (this.view = view ?? whole));
  }

  /** Puts a moment of the past in place of documents; null takes it away again. @param past gives the same object for the same document */
  showPast(past: ((song: Song) => Song) | null): void {
    this.change(() => (this.past = past ?? whole));
  }

  private change(change: () => void): void {
    const before = this.shown;
    change();
    const now = this.shown;
    if (now === before) return;
    for (const listener of this.listeners) listener(now, before);
    this.tellReaders();
  }

  private readonly tellReaders = () => {
    this.stop();
    const state = { ...this.state, song: this.shown, settled: this.shownSettled, document: this.document };
    for (const reader of this.readers) reader(state);
  };

  /** Hears of every song that is shown, at once. */
  follow(listener: (song: Song, before: Song) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Hears of states, a few times a second while something is dragged. */
  read(reader: (state: ShownState) => void): void {
    this.readers.add(reader);
  }

  stop(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
  }
}

function makeLiveSong(desk: Desk): LiveSong {
  const live = new LiveSong();
  desk.onEnd(() => live.stop());
  return live;
}

export const liveSong = (desk: Desk): LiveSong => desk.part(makeLiveSong);

/** The song as it is shown. */
export const songOf = (desk: Desk): Song => liveSong(desk).shown;

/** The song itself, with its passages, which is heard: what is shown of it is another one while a passage is open. A moment of the past that is visited stands in its place. */
export const documentOf = (desk: Desk): Song => liveSong(desk).document;

/** The song without what is only tried: what a gesture begins with. */
export const settledSong = (desk: Desk): Song => liveSong(desk).shownSettled;
