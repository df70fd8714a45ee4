import { useEffect } from 'react';
import { deskStore, useDesk, type Desk } from '../../window/desk/desk';
import type { Track } from '@/core/song';
import type { Suspect } from '@/core/suspects';
import { tell } from '../../window/notices/notices';
import { useServerReturns } from '../../window/outbox/use-server-returns';
import { request, Unreachable } from '../../window/server/request';
import { suspectsUrl } from '../../window/server/measured-urls';
import { songOf } from '../../window/song/live-song';
import { useSong } from '../../window/song/song-store';

/** What may be wrong with the recordings, as far as it has been asked for. */
interface SuspectsStore {
  byAudio: Readonly<Record<string, readonly Suspect[]>>;
  failed: Readonly<Record<string, string>>;
  /** What is looked at while all recordings are looked through; null while they are not. */
  looking: { readonly track: Track } | null;
  /** Whether what was found in all tracks is shown. */
  isAllShown: boolean;
}

const useSuspectsStore = deskStore<SuspectsStore>((desk) => (set) => {
  desk.onEnd(() => set({ looking: null }));
  return { byAudio: {}, failed: {}, looking: null, isAllShown: false };
});
/** Recordings that were asked for, with the answer that they wait for, or had. */
const makeAsked = () => new Map<string, Promise<void>>();

/** Asks for the suspects of a recording, once; again where that failed. @throws OrvidError as the server does */
function ask(desk: Desk, audioId: string): Promise<void> {
  const asked = desk.part(makeAsked);
  const known = asked.get(audioId);
  if (known) return known;
  const store = useSuspectsStore.api(desk);
  store.setState(({ failed: { [audioId]: _, ...failed } }) => ({ failed }));
  const answer = request<Suspect[]>('GET', suspectsUrl(audioId)).then(
    (found) => store.setState(({ byAudio }) => ({ byAudio: { ...byAudio, [audioId]: found } })),
    (error: Error) => {
      asked.delete(audioId);
      store.setState(({ failed }) => ({ failed: { ...failed, [audioId]: error.message } }));
      throw error;
    },
  );
  asked.set(audioId, answer);
  return answer;
}

/** The suspects of a recording; looked for on the server when it is asked for the first time. */
export function useSuspects(audioId: string): {
  suspects: readonly Suspect[] | undefined;
  problem: string | undefined;
} {
  const desk = useDesk();
  const returns = useServerReturns();
  const suspects = useSuspectsStore((store) => store.byAudio[audioId]);
  const problem = useSuspectsStore((store) => store.failed[audioId]);
  useEffect(() => {
    ask(desk, audioId).catch(() => undefined);
  }, [desk, audioId, returns]);
  return { suspects, problem };
}

const isLeft = ({ byAudio, failed }: SuspectsStore, { audioId }: Track) =>
  !(audioId in byAudio) && !(audioId in failed);

/**
 * Looks through the recordings of all tracks, one after the other, so that the server has a thread left for what else is asked; goes on until it is
 * stopped, the song is left, or the server is gone.
 */
export async function lookThroughAll(desk: Desk): Promise<void> {
  const store = useSuspectsStore.api(desk);
  // What failed before may succeed now.
  store.setState({ failed: {}, isAllShown: true });
  for (;;) {
    const track = songOf(desk).tracks.find((other) => isLeft(store.getState(), other));
    if (!track) return stopLooking(desk);
    const looking = { track };
    store.setState({ looking });
    try {
      await ask(desk, track.audioId);
    } catch (error) {
      if (error instanceof Unreachable && store.getState().looking === looking) {
        stopLooking(desk);
        tell(desk, 'The server cannot be reached: the other recordings were not looked through.', 'error');
      }
    }
    // It was stopped, or begun anew.
    if (store.getState().looking !== looking) return;
  }
}

/** What is looked at is finished; nothing after it is begun. */
export const stopLooking = (desk: Desk): void => useSuspectsStore.api(desk).setState({ looking: null });

export const showAllSuspects = (desk: Desk, isAllShown: boolean): void =>
  useSuspectsStore.api(desk).setState({ isAllShown });

/** A suspect of one of the tracks. */
export interface TrackSuspect {
  track: Track;
  suspect: Suspect;
}

/** What is rather there than not, in the recordings that have been looked through: the surest first. */
const suspectsOfAll = (
  tracks: readonly Track[],
  byAudio: SuspectsStore['byAudio'],
  leastSureness: number,
): TrackSuspect[] =>
  tracks
    .flatMap((track) => (byAudio[track.audioId] ?? []).map((suspect) => ({ track, suspect })))
    .filter(({ suspect }) => suspect.sureness >= leastSureness)
    .sort((a, b) => b.suspect.sureness - a.suspect.sureness);

/** How far all recordings are looked through, and what was found in them. */
export function useAllSuspects(leastSureness: number): {
  found: TrackSuspect[];
  lookedThrough: number;
  tracks: number;
  /** Those that could not be looked through. */
  failed: readonly string[];
  lookingAt: string | null;
  isShown: boolean;
} {
  const tracks = useSong((song) => song.tracks);
  const { byAudio, failed, looking, isAllShown } = useSuspectsStore();
  return {
    found: suspectsOfAll(tracks, byAudio, leastSureness),
    lookedThrough: tracks.filter(({ audioId }) => audioId in byAudio).length,
    tracks: tracks.length,
    failed: tracks.filter(({ audioId }) => audioId in failed).map(({ name }) => name),
    lookingAt: looking && looking.track.name,
    isShown: isAllShown,
  };
}
