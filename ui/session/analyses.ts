import { create } from 'zustand';
import type { RecordingAnalysis } from '@/core/measure';
import type { BandLevels } from '@/core/mix';
import { request, requestBytes, useSongStore } from '../song';

/** What was measured of the recordings of the song, by recording. */
export type Analyses = Readonly<Record<string, RecordingAnalysis>>;

interface AnalysesStore {
  byAudio: Analyses;
  levels: BandLevels;
  /** Asks for those that are not here yet. */
  need: (audioIds: readonly string[]) => void;
}

const asked = new Set<string>();

export const useAnalyses = create<AnalysesStore>((set, get) => ({
  byAudio: {},
  levels: {},
  need: (audioIds) => {
    for (const audioId of audioIds) {
      if (asked.has(audioId)) continue;
      asked.add(audioId);
      request<RecordingAnalysis>('GET', `/api/audio/${audioId}/analysis`).then(
        (analysis) => set({ byAudio: { ...get().byAudio, [audioId]: analysis } }),
        () => asked.delete(audioId),
      );
      requestBytes(`/api/audio/${audioId}/band-levels`).then(
        (bytes) => set({ levels: { ...get().levels, [audioId]: bytes } }),
        // It is not asked for again and again: it may have failed on the server.
        (error: Error) =>
          useSongStore
            .getState()
            .tell(
              `The loudness of a recording could not be worked out, so levels are not matched for it. ${error.message} Reload the page to try again.`,
              'error',
            ),
      );
    }
  },
}));
