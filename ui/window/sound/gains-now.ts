import { findStrip, givesWay, type Strip } from '@/core/song';
import { isSameList } from '../../kit/axis/still';
import type { Desk } from '../desk/desk';
import { songOf } from '../song/live-song';
import { useSelection } from '../song/selection';
import { useSongStore } from '../song/song-store';
import { audioState, soundOf } from './audio-state';

/** What the processors of the chosen strip, and its bands that give way, take away or add at this moment. */

/** Whose gains are told: processors that are no equalizers, and bands that give way. */
const watchedOf = (strip: Strip | undefined): string[] =>
  strip?.chain.flatMap((processor) =>
    processor.kind === 'equalizer' ? processor.bands.filter(givesWay).map(({ id }) => id) : [processor.id],
  ) ?? [];

const makeWatched = () => ({ stripId: '', ids: [] as string[] });
const watchedBy = (desk: Desk) => desk.part(makeWatched);

/** Keeps the audio thread told whose gains are looked at, until the desk ends. */
export function followGains(desk: Desk): void {
  const tell = () => {
    const { stripId } = useSelection.of(desk);
    const ids = watchedOf(findStrip(songOf(desk), stripId));
    const watched = watchedBy(desk);
    if (watched.stripId === stripId && isSameList(watched.ids, ids)) return;
    Object.assign(watched, { stripId, ids });
    soundOf(desk).session?.watch(stripId, ids);
  };
  tell();
  const endings = [useSelection.api(desk).subscribe(tell), useSongStore.api(desk).subscribe(tell)];
  desk.onEnd(() => endings.forEach((end) => end()));
}

/** The gain of a processor or band of the chosen strip at this moment, dB; 0 while nothing plays. */
export function gainNow(desk: Desk, id: string): number {
  const index = watchedBy(desk).ids.indexOf(id);
  const state = audioState(desk);
  return index < 0 || !state?.isPlaying ? 0 : state.gainDb(index);
}
