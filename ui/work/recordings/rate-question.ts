import type { Song } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { request } from '../../window/server/request';
import { liveSong } from '../../window/song/live-song';
import type { Go } from '../work';

/** The first recordings of a song, which have another rate than it. */
interface RateQuestion {
  files: readonly File[];
  rateHz: Song['rateHz'];
}

interface RateQuestionStore {
  asked: RateQuestion | null;
  ask: (question: RateQuestion | null) => void;
}

/** Whether a song is to have the rate of its first recordings. */
export const useRateQuestion = deskStore<RateQuestionStore>(() => (set) => ({
  asked: null,
  ask: (asked) => set({ asked }),
}));

/** Files that come in as soon as the song is open that was made for them, by its id. */
const arriving = new Map<string, readonly File[]>();

/** The files that a song was made for, once. */
export function arrivedWith(songId: string): readonly File[] {
  const files = arriving.get(songId) ?? [];
  arriving.delete(songId);
  return files;
}

/**
 * Puts a song of the recordings' rate in the place of one in which nothing has been done, since everything in a song runs at its rate from the beginning.
 * @throws OrvidError when it cannot be made: nothing is changed then
 */
export async function beginAtRate(desk: Desk, { files, rateHz }: RateQuestion, go: Go): Promise<void> {
  const { settled, revision } = liveSong(desk).state;
  const { title } = settled;
  const { id } = await request<{ id: string }>('POST', '/api/songs', { title, rateHz });
  arriving.set(id, files);
  go(`/songs/${id}`);
  // Another window may have done something meanwhile. An empty song that stays where the server is just gone is in nobody's way.
  if (revision === 0) await request('DELETE', `/api/songs/${desk.songId}`).catch(() => undefined);
}
