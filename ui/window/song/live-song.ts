import { emptySong, type Song } from '@/core/song';
import type { Desk } from '../desk/desk';
import { openSongState, type PreviewOwner, type SongState } from './song-state';

/** While something is dragged, lists and figures follow this often. */
const FOLLOW_MS = 125;

/**
 * The song as it is at this moment, also in the middle of a drag. What is heard and what is drawn follow it at once; React follows
 * `useSongStore`, which is told a few times a second while a drag goes on, and of everything else at once.
 */
export class LiveSong {
  state = openSongState(emptySong('Song'), 0);
  private readonly listeners = new Set<(song: Song, before: Song) => void>();
  private readonly readers = new Set<(state: SongState) => void>();
  private timer: ReturnType<typeof setTimeout> | undefined;

  /**
   * @param options.isDrag true for one of many states of a drag: lists and figures may follow later
   * @param options.endedBy who ends its preview itself and need not be told
   */
  take(state: SongState, { isDrag = false, endedBy }: { isDrag?: boolean; endedBy?: PreviewOwner } = {}): void {
    const before = this.state;
    if (state === before) return;
    this.state = state;
    if (state.song !== before.song) for (const listener of this.listeners) listener(state.song, before.song);
    if (isDrag) this.timer ??= setTimeout(this.tellReaders, FOLLOW_MS);
    else this.tellReaders();
    for (const { owner } of before.previews)
      if (owner !== endedBy && !state.previews.some((preview) => preview.owner === owner)) owner.onLost?.();
  }

  private readonly tellReaders = () => {
    this.stop();
    for (const reader of this.readers) reader(this.state);
  };

  /** Hears of every song that is shown, at once. */
  follow(listener: (song: Song, before: Song) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Hears of states, a few times a second while something is dragged. */
  read(reader: (state: SongState) => void): void {
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

/** The song as it is shown and heard. */
export const songOf = (desk: Desk): Song => liveSong(desk).state.song;

/** The song without what is only tried: what a gesture begins with. */
export const settledSong = (desk: Desk): Song => liveSong(desk).state.settled;
