import { MASTER_ID } from '@/core/song';
import { Unreachable } from '../../window/server/request';
import { requestPart, requestParts, type MeasuredPart } from '../../window/sound/measured-parts';

/** Parts that are measured at the same time: as many threads as the server gives to such work. */
const AT_ONCE = 2;

/** Who hears of strips that are measured. */
interface Listener {
  /** How far those are that are measured together, from 0 to 1. */
  progress: (share: number) => void;
  measured: (figures: Record<string, MeasuredPart>) => void;
}

/**
 * Measures strips as the engine renders them: in one render those that sound in the mix as they do by themselves; the others, and all of them where that
 * render fails, a few at a time, the mix first. One that cannot be measured keeps no other from it.
 * @throws OrvidError why the first of those could not be measured that were not; at once when the server is gone
 */
export async function measureStrips(
  songId: string,
  stripIds: readonly string[],
  signal: AbortSignal,
  listener: Listener,
): Promise<void> {
  if (stripIds.length === 0) return;
  const isOver = (thrown: unknown) => signal.aborted || thrown instanceof Unreachable;
  const together = await requestParts(songId, stripIds, listener.progress, signal).catch((thrown: unknown) => {
    if (isOver(thrown)) throw thrown;
    // Which of them it is about is found when each is measured by itself.
    return {} as Record<string, MeasuredPart>;
  });
  signal.throwIfAborted();
  listener.measured(together);
  const left = stripIds
    .filter((id) => !(id in together))
    .sort((a, b) => Number(b === MASTER_ID) - Number(a === MASTER_ID));
  const faults: unknown[] = [];
  const measure = async () => {
    for (let stripId = left.shift(); stripId !== undefined; stripId = left.shift())
      try {
        const figures = await requestPart(songId, stripId, {}, signal);
        signal.throwIfAborted();
        listener.measured({ [stripId]: figures });
      } catch (thrown) {
        if (isOver(thrown)) throw thrown;
        faults.push(thrown);
      }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, measure));
  if (faults.length > 0) throw faults[0];
}
