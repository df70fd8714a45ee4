import type { MixRange } from '@/core/engine';
import { OrvidError } from '@/core/errors';
import type { FoundGrid } from '@/core/grid';
import { STEPS_PER_SECOND, type Alignment, type StepRange } from '@/core/measure';
import {
  asRecorded,
  feedingPart,
  hasEnds,
  heardInMix,
  partOf,
  reactivePart,
  stripUpTo,
  type FoundBleed,
} from '@/core/mix';
import { checkRouting, findStrip, MASTER_ID, songLengthFrames, type Song } from '@/core/song';
import { loadSong } from '../songs/store';
import type { Report } from '../jobs/jobs';
import { runInWorker } from '../workers/pool';
import type { AlignmentTask } from './alignment';
import type { BleedTask } from './bleed';
import { dependencies, keep, known, once } from './kept-figures';
import type { PartFigures } from './measure-part';
import { withPageFiles } from './render-job';
import type { MeasuredStripLevels } from './strip-levels';

export interface MeasuredPart extends PartFigures {
  /** Of the song that was measured. */
  revision: number;
}

const noStrip = (stripId: string) =>
  new OrvidError('not-found', `The song has no track or bus “${stripId}”.`, 'Nothing was measured.');

/**
 * Measures a part of a song as it stands now, in a worker thread.
 * @param seconds the stretch; the default is the whole song
 * @param signal ends it when it aborts
 * @param byRange true to measure both sides by third-octaves too
 * @throws OrvidError `not-found`, `invalid-input` for a stretch outside the song, `damaged`
 */
export async function measureSongPart(
  songId: string,
  stripId: string,
  seconds: { from?: number; to?: number },
  signal: AbortSignal,
  byRange = false,
): Promise<MeasuredPart> {
  const { song, revision } = await loadSong(songId);
  if (!findStrip(song, stripId)) throw noStrip(stripId);
  const frameAt = (at: number) => Math.min(songLengthFrames(song), Math.max(0, Math.round(at * song.rateHz)));
  const range = { startFrame: frameAt(seconds.from ?? 0), endFrame: frameAt(seconds.to ?? Infinity) };
  if (!(range.endFrame > range.startFrame))
    throw new OrvidError('invalid-input', 'The stretch to measure lies outside the song.', 'Nothing was measured.');
  const part = partOf(song, stripId);
  const figures = await once(
    partKey(song, part, range, byRange),
    (lasting) =>
      withPageFiles(part, (pageFiles) =>
        runInWorker<PartFigures>('measurePart', { song, stripId, pageFiles, range, byRange }, lasting),
      ),
    () => PART_BYTES,
    signal,
  );
  return { ...figures, revision };
}

/** Figures of a part, about. */
const PART_BYTES = 4000;
/** A page that is loaded anew asks again within this. */
const RELOAD_MS = 5000;

/** What the figures of a part depend on. Which pass filters are crossovers of layers, the part alone does not tell. */
const partKey = (song: Song, part: Song, range: MixRange, byRange: boolean) =>
  dependencies(part, range, hasEnds(part, song), byRange);

/**
 * Measures strips of a whole song in one render, as far as they can be: what is left out sounds otherwise in the mix, and is for {@link measureSongPart}.
 * @returns figures by strip, what was known of them already among them
 * @throws OrvidError as {@link measureSongPart}
 */
export async function measureSongStrips(
  songId: string,
  stripIds: readonly string[],
  signal: AbortSignal,
  report: Report,
): Promise<Record<string, MeasuredPart>> {
  const { song, revision } = await loadSong(songId);
  const gone = stripIds.find((stripId) => !findStrip(song, stripId));
  if (gone !== undefined) throw noStrip(gone);
  const range = { startFrame: 0, endFrame: songLengthFrames(song) };
  if (range.endFrame === 0)
    throw new OrvidError('invalid-input', 'The song has no recordings yet.', 'Nothing was measured.');
  const keys = new Map(stripIds.map((id) => [id, partKey(song, partOf(song, id), range, false)]));
  const found = new Map<string, PartFigures>();
  for (const [id, key] of keys) {
    const before = known<PartFigures>(key);
    if (before) found.set(id, before);
  }
  const left = stripIds.filter((id) => !found.has(id));
  const heard = [...heardInMix(song, left), ...left.filter((id) => id === MASTER_ID)];
  if (heard.length > 0) {
    const task = { song, stripIds: heard, range };
    const figures = await once(
      ['strips', ...heard.map((id) => `${id} ${keys.get(id)}`)].join(' '),
      (lasting, told) =>
        withPageFiles(song, (pageFiles) =>
          runInWorker<Record<string, PartFigures>>('measureStrips', { ...task, pageFiles }, lasting, told),
        ),
      () => heard.length * PART_BYTES,
      signal,
      { report, graceMs: RELOAD_MS },
    );
    for (const [id, of] of Object.entries(figures)) {
      keep(keys.get(id)!, of, PART_BYTES);
      found.set(id, of);
    }
  }
  return Object.fromEntries([...found].map(([id, figures]) => [id, { ...figures, revision }]));
}

/** A state of a song that is asked about: the page's own, which may not be saved. */
export interface PostedQuestion {
  song: Song;
  /** Steps of 50 ms. */
  range: StepRange;
}

/** Nothing longer is measured at once: the longest recordings. */
const MOST_STEPS = 4 * 3600 * STEPS_PER_SECOND;

/** @throws OrvidError `invalid-input` */
function checkQuestion({ song, range }: PostedQuestion, stripIds: readonly string[]): void {
  const gone = stripIds.find((stripId) => !findStrip(song, stripId));
  if (gone !== undefined) throw noStrip(gone);
  if (!(range.from >= 0 && range.to > range.from && range.to - range.from <= MOST_STEPS))
    throw new OrvidError('invalid-input', 'The stretch to measure lies outside the song.', 'Nothing was measured.');
  checkRouting(song);
}

/** Levels of a strip before its chain and behind what reacts in it. @throws OrvidError as {@link measureSongPart} */
export async function measureLevels(
  question: PostedQuestion & { stripId: string },
  signal: AbortSignal,
): Promise<MeasuredStripLevels> {
  const { stripId, range } = question;
  checkQuestion(question, [stripId]);
  const song = feedingPart(question.song, [stripId]);
  const part = stripUpTo(song, stripId, reactivePart(findStrip(song, stripId)!.chain));
  return once(
    dependencies(part, 'levels', range),
    (lasting) =>
      withPageFiles(song, (pageFiles) =>
        runInWorker<MeasuredStripLevels>('stripLevels', { song, stripId, pageFiles, range }, lasting),
      ),
    ({ rows }) => rows.length,
    signal,
  );
}

/** How strips stand to the first of them. @throws OrvidError as {@link measureSongPart} */
export async function measureAlignments(
  question: PostedQuestion & Pick<AlignmentTask, 'stripIds' | 'band'>,
  signal: AbortSignal,
): Promise<Alignment[]> {
  const { stripIds, range, band } = question;
  checkQuestion(question, stripIds);
  const song = feedingPart(question.song, stripIds);
  return once(
    dependencies(song, 'alignment', stripIds, range, band),
    (lasting) =>
      withPageFiles(song, (pageFiles) =>
        runInWorker<Alignment[]>('alignment', { song, stripIds, range, band, pageFiles }, lasting),
      ),
    () => 1000,
    signal,
  );
}

/** What of one track's recording is heard in that of another. @throws OrvidError as {@link measureSongPart} */
export async function measureSongBleed(
  question: PostedQuestion & Pick<BleedTask, 'trackId' | 'sourceId'>,
  signal: AbortSignal,
): Promise<FoundBleed | null> {
  const { trackId, sourceId, range } = question;
  checkQuestion(question, [trackId, sourceId]);
  const song = asRecorded(question.song, [trackId, sourceId]);
  if (song.tracks.length < 2)
    throw new OrvidError('invalid-input', 'Bleed is looked for between two tracks.', 'Nothing was measured.');
  return once(
    dependencies(song, 'bleed', trackId, sourceId, range),
    (lasting) =>
      withPageFiles(song, (pageFiles) =>
        runInWorker<FoundBleed | null>('bleed', { song, trackId, sourceId, range, pageFiles }, lasting),
      ),
    () => 2000,
    signal,
  );
}

/** The tempo and the bars of a song by when things begin in its recordings. @throws OrvidError as {@link measureSongPart} */
export async function measureGrid(songId: string, signal: AbortSignal): Promise<FoundGrid | null> {
  const { song } = await loadSong(songId);
  if (songLengthFrames(song) === 0)
    throw new OrvidError('invalid-input', 'The song has no recordings yet.', 'No bars were looked for.');
  return once(
    dependencies(song, 'grid'),
    (lasting) =>
      withPageFiles(song, (pageFiles) => runInWorker<FoundGrid | null>('grid', { song, pageFiles }, lasting)),
    () => 1000,
    signal,
  );
}
