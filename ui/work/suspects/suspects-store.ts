import { useEffect } from 'react';
import { deskStore, useDesk } from '../../window/desk/desk';
import type { Suspect } from '@/core/suspects';
import { useServerReturns } from '../../window/outbox/use-server-returns';
import { request } from '../../window/server/request';
import { suspectsUrl } from '../../window/server/measured-urls';

/** What may be wrong with the recordings, as far as it has been asked for. */
interface SuspectsStore {
  byAudio: Readonly<Record<string, readonly Suspect[]>>;
  failed: Readonly<Record<string, string>>;
}

const useSuspectsStore = deskStore<SuspectsStore>(() => () => ({ byAudio: {}, failed: {} }));
/** Recordings that were asked for. */
const makeAsked = () => new Set<string>();

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
    const asked = desk.part(makeAsked);
    if (asked.has(audioId)) return;
    asked.add(audioId);
    useSuspectsStore.api(desk).setState(({ failed: { [audioId]: _, ...failed } }) => ({ failed }));
    request<Suspect[]>('GET', suspectsUrl(audioId)).then(
      (found) => useSuspectsStore.api(desk).setState(({ byAudio }) => ({ byAudio: { ...byAudio, [audioId]: found } })),
      (error: Error) => {
        asked.delete(audioId);
        useSuspectsStore.api(desk).setState(({ failed }) => ({ failed: { ...failed, [audioId]: error.message } }));
      },
    );
  }, [desk, audioId, returns]);
  return { suspects, problem };
}
