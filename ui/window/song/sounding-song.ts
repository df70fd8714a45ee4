import { settingsAt } from '@/core/passages';
import type { Song } from '@/core/song';
import type { Desk } from '../desk/desk';
import { positionSeconds } from '../sound/audio-state';
import { documentOf, liveSong, songOf } from './live-song';
import { useOpenPassage } from './open-passage';

/** Pictures follow the playhead into and out of passages this often. */
const FOLLOWED_EVERY_MS = 100;

/** The song as it is at the playhead, for pictures: what is taken hold of stays that of the song. */
class Sounding {
  private seconds = 0;
  private readonly known = new WeakMap<Song, { seconds: number; song: Song }>();
  private readonly listeners = new Set<(now: Song, before: Song) => void>();

  constructor(private readonly desk: Desk) {
    const timer = setInterval(() => this.follow(), FOLLOWED_EVERY_MS);
    desk.onEnd(() => clearInterval(timer));
  }

  get song(): Song {
    if (useOpenPassage.of(this.desk).passageId !== null) return songOf(this.desk);
    const document = documentOf(this.desk);
    if (document.passages.length === 0) return document;
    const known = this.known.get(document);
    if (known?.seconds === this.seconds) return known.song;
    const song = settingsAt(document, this.seconds);
    this.known.set(document, { seconds: this.seconds, song });
    return song;
  }

  private follow(): void {
    const seconds = positionSeconds(this.desk);
    if (seconds === this.seconds || documentOf(this.desk).passages.length === 0) return;
    const before = this.song;
    this.seconds = seconds;
    const { song } = this;
    if (song !== before) for (const listener of this.listeners) listener(song, before);
  }

  listen(listener: (now: Song, before: Song) => void): () => void {
    this.listeners.add(listener);
    const unfollow = liveSong(this.desk).follow(listener);
    return () => {
      this.listeners.delete(listener);
      unfollow();
    };
  }
}
const makeSounding = (desk: Desk) => new Sounding(desk);
const sounding = (desk: Desk) => desk.part(makeSounding);

/** The song as pictures show it: as it is at the playhead, or as the open passage makes it. */
export const soundingSong = (desk: Desk): Song => sounding(desk).song;

/** Hears of every change of it: by edits and drags, and where the playhead comes into a passage or leaves one. */
export const followSounding = (desk: Desk, listener: (now: Song, before: Song) => void): (() => void) =>
  sounding(desk).listen(listener);
