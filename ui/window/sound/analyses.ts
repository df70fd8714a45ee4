import type { RecordingAnalysis } from '@/core/measure';
import type { BandLevels } from '@/core/mix';
import { deskStore, type Desk } from '../desk/desk';
import { tell } from '../notices/notices';
import { onServerBack } from '../outbox/link';
import { analysisUrl, bandLevelsUrl } from '../server/measured-urls';
import { request, requestBytes } from '../server/request';

/** What was measured of the recordings of the song, by recording. */
export type Analyses = Readonly<Record<string, RecordingAnalysis>>;

interface AnalysesStore {
  byAudio: Analyses;
  levels: BandLevels;
  /** Recordings whose levels could not be had. */
  failed: readonly string[];
  /** Asks for those that are not here yet. */
  need: (audioIds: readonly string[]) => void;
}

export const useAnalyses = deskStore<AnalysesStore>((desk) => (set, get) => {
  const asked = new Set<string>();
  const ask = (audioId: string) => {
    asked.add(audioId);
    request<RecordingAnalysis>('GET', analysisUrl(audioId)).then(
      (analysis) => set({ byAudio: { ...get().byAudio, [audioId]: analysis } }),
      () => asked.delete(audioId),
    );
    requestBytes(bandLevelsUrl(audioId)).then(
      (bytes) => set({ levels: { ...get().levels, [audioId]: bytes } }),
      // It is not asked for again and again, since it may have failed on the server; but when the server was away, once it is back.
      (error: Error) => {
        set({ failed: [...get().failed, audioId] });
        const what = 'The loudness of a recording could not be worked out, so levels are not matched for it.';
        tell(desk, `${what} ${error.message} Reload the page to try again.`, 'error');
      },
    );
  };
  onServerBack(desk, () => {
    const again = get().failed;
    set({ failed: [] });
    again.forEach(ask);
  });
  return {
    byAudio: {},
    levels: {},
    failed: [],
    need: (audioIds) => {
      for (const audioId of audioIds) if (!asked.has(audioId)) ask(audioId);
    },
  };
});

/** Waits until the levels of these recordings are here, or are known not to come. */
export function levelsSettled(desk: Desk, audioIds: readonly string[]): Promise<void> {
  const isSettled = ({ levels, failed }: AnalysesStore) =>
    audioIds.every((audioId) => audioId in levels || failed.includes(audioId));
  return new Promise((settle) => {
    const store = useAnalyses.api(desk);
    if (isSettled(store.getState())) return settle();
    const stop = store.subscribe((state) => {
      if (!isSettled(state)) return;
      stop();
      settle();
    });
  });
}
