import type { RecordingAnalysis } from '@/core/measure';
import type { BandLevels } from '@/core/mix';
import { deskStore } from '../desk/desk';
import { tell } from '../notices/notices';
import { onServerBack } from '../outbox/link';
import { request, requestBytes } from '../server/request';

/** What was measured of the recordings of the song, by recording. */
export type Analyses = Readonly<Record<string, RecordingAnalysis>>;

interface AnalysesStore {
  byAudio: Analyses;
  levels: BandLevels;
  /** Asks for those that are not here yet. */
  need: (audioIds: readonly string[]) => void;
}

export const useAnalyses = deskStore<AnalysesStore>((desk) => (set, get) => {
  const asked = new Set<string>();
  const failed = new Set<string>();
  const ask = (audioId: string) => {
    asked.add(audioId);
    request<RecordingAnalysis>('GET', `/api/audio/${audioId}/analysis`).then(
      (analysis) => set({ byAudio: { ...get().byAudio, [audioId]: analysis } }),
      () => asked.delete(audioId),
    );
    requestBytes(`/api/audio/${audioId}/band-levels`).then(
      (bytes) => set({ levels: { ...get().levels, [audioId]: bytes } }),
      // It is not asked for again and again, since it may have failed on the server; but when the server was away, once it is back.
      (error: Error) => {
        failed.add(audioId);
        const what = 'The loudness of a recording could not be worked out, so levels are not matched for it.';
        tell(desk, `${what} ${error.message} Reload the page to try again.`, 'error');
      },
    );
  };
  onServerBack(desk, () => {
    const again = [...failed];
    failed.clear();
    again.forEach(ask);
  });
  return {
    byAudio: {},
    levels: {},
    need: (audioIds) => {
      for (const audioId of audioIds) if (!asked.has(audioId)) ask(audioId);
    },
  };
});
