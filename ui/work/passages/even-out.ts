import { FADER_RANGE_DB, MASTER_ID, type Edit, type FigureRef, type Passage } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { documentOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { requestPart } from '../../window/sound/measured-parts';

/** How loud the mix is around a passage, LUFS; null where it is silent, or where there is nothing. */
export interface LoudnessAround {
  before: number | null;
  within: number | null;
  after: number | null;
  /** Of the song that was measured. */
  revision: number;
}

interface EveningStore {
  byPassage: Readonly<Record<string, LoudnessAround>>;
  measuring: string | null;
}
export const useEvening = deskStore<EveningStore>(() => () => ({ byPassage: {}, measuring: null }));

/** Short-term loudness looks at so much: ITU-R BS.1771. Seconds. */
const SHORT_TERM = 3;
/** Less is silence beside music, and no surroundings to be even with, LU below the passage. */
const AUDIBLE_LU = 30;

/** Measures the mix just before, within and just behind a passage. */
export async function measureAround(
  desk: Desk,
  { id, startSeconds, endSeconds }: Passage,
): Promise<LoudnessAround | null> {
  useEvening.api(desk).setState({ measuring: id });
  // The server measures its own song: what was just edited must be there.
  await saved(desk);
  const abort = new AbortController();
  desk.onEnd(() => abort.abort());
  const { revision } = useSongStore.of(desk).state;
  const loudness = async (from: number, to: number) => {
    if (!(to - from >= 0.4)) return null;
    return (await requestPart(desk.songId, MASTER_ID, { from, to }, abort.signal)).integratedLufs;
  };
  try {
    const { tracks, rateHz } = documentOf(desk);
    const end = tracks.reduce((most, { lengthFrames }) => Math.max(most, lengthFrames / rateHz), 0);
    const around: LoudnessAround = {
      before: await loudness(Math.max(0, startSeconds - SHORT_TERM), startSeconds),
      within: await loudness(startSeconds, Math.min(end, endSeconds)),
      after: await loudness(endSeconds, Math.min(end, endSeconds + SHORT_TERM)),
      revision,
    };
    useEvening.api(desk).setState(({ byPassage }) => ({ byPassage: { ...byPassage, [id]: around } }));
    return around;
  } catch (error) {
    if (!abort.signal.aborted) tell(desk, `It could not be measured. ${(error as Error).message}`, 'error');
    return null;
  } finally {
    useEvening.api(desk).setState({ measuring: null });
  }
}

/** How much louder a passage has to be to be as loud as what lies around it, dB; null where nothing lies there. */
export function evenedByDb({ before, within, after }: LoudnessAround): number | null {
  if (within === null) return null;
  const around = [before, after].filter((lufs): lufs is number => lufs !== null && lufs > within - AUDIBLE_LU);
  if (around.length === 0) return null;
  return around.reduce((sum, lufs) => sum + lufs, 0) / around.length - within;
}

const MASTER_LEVEL: FigureRef = { stripId: MASTER_ID, of: 'strip', partId: '', field: 'gainDb' };

/** The edit that brings a passage to the loudness around it: a level of the master within it. */
export function evening(desk: Desk, passage: Passage, byDb: number): Edit {
  const document = documentOf(desk);
  const known = passage.changes.find(
    ({ figure }) => figure.stripId === MASTER_ID && figure.field === 'gainDb' && figure.of === 'strip',
  );
  const from = known && typeof known.value === 'number' ? known.value : document.master.gainDb;
  const raised = (db: number) =>
    Math.min(FADER_RANGE_DB.max, Math.max(FADER_RANGE_DB.min, Math.round((db + byDb) * 100) / 100));
  const points = (known?.points ?? []).map((point) => ({ ...point, value: raised(point.value) }));
  return {
    kind: 'passage.figure',
    passageId: passage.id,
    figure: MASTER_LEVEL,
    changes: { to: { value: raised(from), points } },
  };
}

/** Measures, evens a passage out, and measures again what came of it. */
export async function evenOut(desk: Desk, passageId: string): Promise<void> {
  const passage = () => documentOf(desk).passages.find(({ id }) => id === passageId);
  const found = passage();
  const around = found && (await measureAround(desk, found));
  const now = passage();
  if (!around || !now) return;
  const byDb = evenedByDb(around);
  if (byDb === null) tell(desk, 'There is nothing beside this passage that it could be as loud as.');
  else if (Math.abs(byDb) < 0.05) tell(desk, 'It is as loud as what lies around it.');
  else if (useSongStore.of(desk).edit(evening(desk, now, byDb), 'Even out a passage')) {
    const after = passage();
    if (after) await measureAround(desk, after);
  }
}

/** Until the server has what was edited here: it measures its own song. */
async function saved(desk: Desk): Promise<void> {
  for (let waited = 0; waited < 50 && useSongStore.of(desk).state.pending.length > 0; waited++)
    await new Promise((done) => setTimeout(done, 100));
}
