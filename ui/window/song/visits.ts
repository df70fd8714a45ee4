import type { UndoHistory } from '@/core/song';
import type { Desk } from '../desk/desk';
import { liveSong } from './live-song';
import { useSelection } from './selection';

/** What comes back when a song is opened again in the same page: after a look at its score, or at the list of songs. */
interface Visit {
  history: UndoHistory;
  stripId: string;
  bandId: string | null;
}

const MOST_KEPT = 20;

/** By song, the latest last. It holds what was left, not what is open. */
const visits = new Map<string, Visit>();

/** Keeps what can be undone, and what was chosen, for the next visit; what can no longer be undone then is said when it is asked for. */
export function keepVisit(desk: Desk): void {
  const { stripId, bandId } = useSelection.of(desk);
  visits.delete(desk.songId);
  visits.set(desk.songId, { history: liveSong(desk).state.history, stripId, bandId });
  for (const songId of [...visits.keys()].slice(0, Math.max(0, visits.size - MOST_KEPT))) visits.delete(songId);
}

export const lastVisit = (songId: string): Visit | undefined => visits.get(songId);
