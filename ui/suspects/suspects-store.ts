import { useEffect } from 'react';
import { create } from 'zustand';
import { bandsForSuspect, type Suspect } from '@/core/suspects';
import { useListening, useSession } from '../session';
import { addBands, chooseNewest, request, useSongStore } from '../song';

/** What may be wrong with the recordings, as far as it has been asked for, and what of it is heard now. */
interface SuspectsStore {
  byAudio: Readonly<Record<string, readonly Suspect[]>>;
  failed: Readonly<Record<string, string>>;
  heard: { stripId: string; suspect: Suspect } | null;
}

export const useSuspectsStore = create<SuspectsStore>(() => ({ byAudio: {}, failed: {}, heard: null }));
const asked = new Set<string>();

/** The suspects of a recording; looked for on the server when it is asked for the first time. */
export function useSuspects(audioId: string): {
  suspects: readonly Suspect[] | undefined;
  problem: string | undefined;
} {
  const suspects = useSuspectsStore((store) => store.byAudio[audioId]);
  const problem = useSuspectsStore((store) => store.failed[audioId]);
  useEffect(() => {
    if (asked.has(audioId)) return;
    asked.add(audioId);
    useSuspectsStore.setState(({ failed: { [audioId]: _, ...failed } }) => ({ failed }));
    request<Suspect[]>('GET', `/api/audio/${audioId}/suspects`).then(
      (found) => useSuspectsStore.setState(({ byAudio }) => ({ byAudio: { ...byAudio, [audioId]: found } })),
      (error: Error) => {
        asked.delete(audioId);
        useSuspectsStore.setState(({ failed }) => ({ failed: { ...failed, [audioId]: error.message } }));
      },
    );
  }, [audioId]);
  return { suspects, problem };
}

/** Only the suspect's range of the track is heard, half an octave wide at least. */
export function hearSuspect(stripId: string, suspect: Suspect): void {
  const half = Math.max(2 ** 0.25, Math.sqrt(suspect.highHz / suspect.lowHz));
  const middle = Math.sqrt(suspect.lowHz * suspect.highHz);
  useListening.getState().setEarshot({
    stripId,
    lowHz: Math.max(20, middle / half),
    highHz: Math.min(20000, middle * half),
  });
  useSuspectsStore.setState({ heard: { stripId, suspect } });
  const { isPlaying, togglePlay } = useSession.getState();
  if (!isPlaying) togglePlay();
}

export function endSuspect(): void {
  if (!useSuspectsStore.getState().heard) return;
  useListening.getState().setEarshot(null);
  useSuspectsStore.setState({ heard: null });
}

/** Takes a suspect as bands that fit it; they are ordinary bands from then on. */
export function takeSuspect(stripId: string, suspect: Suspect, note: string): void {
  endSuspect();
  const bands = bandsForSuspect(suspect).map((band) => ({ ...band, note }));
  useSongStore.getState().edit(addBands([stripId], bands), 'Take a suspect');
  chooseNewest();
}
