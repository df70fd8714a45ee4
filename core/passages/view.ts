import type { Passage, Settings, Strip } from '../song';
import { holding, holdsAt, inOrder, passagesByStrip, stripWithin, type StripPassage } from './at';

/** A moment within a passage, as near to one of the song as there is. */
export const momentWithin = ({ startSeconds, endSeconds }: Passage, seconds: number): number =>
  Math.min(endSeconds - 1e-4, Math.max(startSeconds, seconds));

/**
 * The song as it is within a passage, whole: what a page shows while it is open. Its fades are over, and what else holds at that moment does so too.
 * @param seconds where in it; a line is seen where it is then
 */
export function settingsWithin<S extends Settings>(song: S, passageId: string, seconds: number): S {
  const passage = song.passages.find(({ id }) => id === passageId);
  if (!passage) return song;
  const moment = momentWithin(passage, seconds);
  const whole = { ...passage, enabled: true, fadeInSeconds: 0, fadeOutSeconds: 0 };
  const byStrip = passagesByStrip(song.passages.map((other) => (other === passage ? whole : other)));
  const within = <T extends Strip>(strip: T): T => {
    const all: readonly StripPassage[] = byStrip.get(strip.id) ?? [];
    const now = holding(all, moment);
    return now.length === 0 ? strip : (stripWithin(strip, now, moment) as T);
  };
  return { ...song, tracks: song.tracks.map(within), buses: song.buses.map(within), master: within(song.master) };
}

/** The passages that hold at a moment. */
export const passagesAt = ({ passages }: Settings, seconds: number): Passage[] =>
  inOrder(passages).filter((passage) => holdsAt(passage, seconds));
