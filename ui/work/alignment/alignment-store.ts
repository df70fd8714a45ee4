import type { Alignment, FrequencyBand } from '@/core/measure';
import { batch, DELAY_RANGE_MS, type Edit, type Track } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { songOf } from '../../window/song/live-song';
import type { PreviewOwner } from '../../window/song/song-state';
import { useSongStore } from '../../window/song/song-store';
import { askAlignment } from '../../window/sound/judge-pairs';

/** What was found of one track beside the first of those that are chosen. */
export interface FoundTrack {
  trackId: string;
  name: string;
  alignment: Alignment;
}

interface AlignmentStore {
  isLooking: boolean;
  found: { firstName: string; tracks: readonly FoundTrack[]; isHeard: boolean } | null;
}

export const useAlignment = deskStore<AlignmentStore>(() => () => ({ isLooking: false, found: null }));

/** Less is not worth a move, dB. */
const LEAST_WON_DB = 0.2;

/** The move of a track that is worth making; null where nothing is to be won. */
export const moveOf = ({ best }: Alignment): Alignment['best'] =>
  best && (best.wonDb >= LEAST_WON_DB || best.byRange.some(({ wonDb }) => wonDb >= 3 * LEAST_WON_DB)) ? best : null;

function makeTrial(desk: Desk) {
  const owner: PreviewOwner = { onLost: () => useAlignment.api(desk).setState({ found: null }) };
  return { owner, asked: 0 };
}
const trialOf = (desk: Desk) => desk.part(makeTrial);

/** The delay and polarity of a track after what was found. */
export function alignedTo({ delayMs, polarityInverted }: Track, best: NonNullable<Alignment['best']>) {
  const moved = Math.round((delayMs + 1000 * best.delaySeconds) * 10000) / 10000;
  return {
    delayMs: Math.min(DELAY_RANGE_MS.max, Math.max(DELAY_RANGE_MS.min, moved)),
    polarityInverted: polarityInverted !== best.inverted,
  };
}

function alignEdit(desk: Desk, tracks: readonly FoundTrack[]): Edit | null {
  const { settled } = useSongStore.of(desk).state;
  return batch(
    tracks.flatMap(({ trackId, alignment }): Edit[] => {
      const track = settled.tracks.find(({ id }) => id === trackId);
      const move = moveOf(alignment);
      return track && move ? [{ kind: 'strip.set', stripId: trackId, changes: alignedTo(track, move) }] : [];
    }),
  );
}

/** Finds at which delay and polarity tracks add up best with the first, and lets it be heard. */
export async function findPlaces(desk: Desk, trackIds: readonly string[], band: FrequencyBand | null): Promise<void> {
  endPlaces(desk, false);
  const trial = trialOf(desk);
  const number = ++trial.asked;
  const store = useAlignment.api(desk);
  store.setState({ isLooking: true });
  try {
    const nameOf = (trackId: string) => songOf(desk).tracks.find(({ id }) => id === trackId)?.name ?? '';
    const alignments = await askAlignment(desk, trackIds, band);
    if (number !== trial.asked) return;
    const [first, ...others] = trackIds;
    const tracks = others.map((trackId, i) => ({ trackId, name: nameOf(trackId), alignment: alignments[i] }));
    store.setState({ found: { firstName: nameOf(first), tracks, isHeard: false } });
    hearPlaces(desk, true);
  } catch (error) {
    if (number === trial.asked)
      tell(desk, `It could not be found out. ${(error as Error).message} The song is as it was.`, 'error');
  } finally {
    if (number === trial.asked) store.setState({ isLooking: false });
  }
}

/** The tracks where they add up best, or as they were. */
export function hearPlaces(desk: Desk, isHeard: boolean): void {
  const { found } = useAlignment.of(desk);
  if (!found) return;
  const edit = isHeard ? alignEdit(desk, found.tracks) : null;
  useAlignment.api(desk).setState({ found: { ...found, isHeard: edit !== null } });
  useSongStore.of(desk).preview(trialOf(desk).owner, edit);
}

/** Ends what is tried. @param isKept true to keep it, as one step of undo */
export function endPlaces(desk: Desk, isKept: boolean): void {
  const trial = trialOf(desk);
  trial.asked++;
  const { found } = useAlignment.of(desk);
  if (!found) return useAlignment.api(desk).setState({ isLooking: false });
  const { preview, keepPreview, edit } = useSongStore.of(desk);
  if (isKept && found.isHeard) keepPreview(trial.owner, 'Add up');
  else if (isKept) edit(alignEdit(desk, found.tracks), 'Add up');
  else preview(trial.owner, null);
  useAlignment.api(desk).setState({ found: null, isLooking: false });
}
