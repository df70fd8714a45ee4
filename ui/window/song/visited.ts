import type { Settings, Song } from '@/core/song';
import { deskStore, type Desk } from '../desk/desk';
import { tell } from '../notices/notices';
import { liveSong } from './live-song';
import { useOpenPassage } from './open-passage';

/** A moment of a song's past. */
export interface Moment {
  revision: number;
  at: string;
  /** What is said of it: its name, or what was changed last. */
  name: string;
  settings: Settings;
}

/** The moment that is looked at and heard in place of the song: nothing can be changed in it. */
export const useVisited = deskStore<{ moment: Moment | null; isHeard: boolean; setHeard: (isHeard: boolean) => void }>(
  () => (set) => ({ moment: null, isHeard: true, setHeard: (isHeard) => set({ isHeard }) }),
);

/** The song as it is now, whatever moment of its past is shown. */
export const songNow = (desk: Desk): Song => liveSong(desk).state.song;

/** Shows a moment in place of the song; null goes back to the song as it is. */
export function showMoment(desk: Desk, moment: Moment | null): void {
  useOpenPassage.of(desk).open(null);
  useVisited.api(desk).setState({ moment, isHeard: true });
  if (!moment) {
    liveSong(desk).showPast(null);
    return;
  }
  const known = new WeakMap<Song, Song>();
  liveSong(desk).showPast((song) => {
    const shown = known.get(song) ?? { ...song, ...moment.settings };
    known.set(song, shown);
    return shown;
  });
}

/** True while a moment of the past is shown, which is said: nothing can be changed then. */
export function isReadOnly(desk: Desk): boolean {
  const { moment } = useVisited.of(desk);
  if (!moment) return false;
  tell(
    desk,
    'This is a moment of the past, and stays as it was. Go back to it, or return to the song as it is.',
    'error',
  );
  return true;
}
