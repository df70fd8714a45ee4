import { open } from 'node:fs/promises';
import { PAGE_FRAMES, packedBytes, PIECE_FRAMES, PIECES_OF_PAGE, type SampleBits } from '@/core/engine';
import { asOrvidError, OrvidError } from '@/core/errors';
import type { DecodedRecording } from '../import/decode-recording';
import { log } from '../log';
import { singleton } from '../singleton';
import { runInWorker } from '../workers/pool';
import { crc32Text } from './checksum';
import { findFrozen, frozenDamaged } from './frozen';
import type { StoredRecording } from './measure-recording';
import { checksumOf, pageExtent, readPageBytes, unopenable } from './page-file';
import { recentPage } from './recent-pages';
import {
  discard,
  keepWritten,
  needAudio,
  needAudios,
  noSuchRecording,
  originalPath,
  pagesPath,
  recordingOf,
  settle,
  storedAudios,
  temporaryPath,
  type AudioRow,
} from './store';

/** A recording whose pages were damaged on the disk is made anew from the file that it came from. */

/** One page of a recording's samples: planar, packed as its pages are. @throws OrvidError `damaged` */
async function readChecked({ pages, channels, lengthFrames }: StoredRecording, page: number): Promise<Uint8Array> {
  const file = await open(pages.path, 'r').catch((thrown: unknown) => {
    log.error({ error: thrown, path: pages.path }, 'pages could not be opened');
    throw unopenable(pages, thrown);
  });
  try {
    return await readPageBytes(file, pages, page, pageExtent(page, channels, lengthFrames, pages.bits));
  } finally {
    await file.close();
  }
}

/** @returns what is wrong with the pages of a recording; null where they are whole */
export const faultOf = (row: AudioRow): Promise<OrvidError | null> => faultIn(recordingOf(row));

/** The same of a recording that no row tells of. */
export async function faultIn(recording: StoredRecording): Promise<OrvidError | null> {
  try {
    for (let page = 0; page * PAGE_FRAMES < recording.lengthFrames; page++) await readChecked(recording, page);
    return null;
  } catch (thrown) {
    return asOrvidError(thrown);
  }
}

async function makeAnew(row: AudioRow, found: OrvidError): Promise<void> {
  const pages = await temporaryPath();
  try {
    const decoded = await runInWorker<DecodedRecording>('decode', {
      source: originalPath(row.originalHash),
      pages,
      fileName: row.originalName,
      rateHz: row.rateHz,
    });
    if (decoded.audioId !== row.id) throw new OrvidError('damaged', 'it is not what it was');
    await settle(pages, pagesPath(row.id));
    await keepWritten(row.id, { pageChecksums: decoded.pageChecksums, sampleBits: decoded.sampleBits });
    log.warn({ audioId: row.id, name: row.originalName }, 'a damaged recording was made anew from its original');
  } catch (thrown) {
    log.error({ error: thrown, audioId: row.id }, 'a damaged recording could not be made anew');
    // A disk that is full or cannot be written to says nothing about the original.
    if (['disk-full', 'unwritable'].includes(asOrvidError(thrown).code)) throw thrown;
    throw new OrvidError(
      'damaged',
      `${found.message} The file that it came from cannot be read either.`,
      'Everything else is as it was. Add the file again.',
    );
  } finally {
    await discard(pages);
  }
}

const mendings = () => singleton('mendings', () => new Map<string, Promise<boolean>>());

async function mend(audioId: string): Promise<boolean> {
  const row = await needAudio(audioId);
  const found = await faultOf(row);
  if (found) await makeAnew(row, found);
  return found !== null;
}

/**
 * Looks a recording through and makes it anew where it is damaged; once, however many ask.
 * @returns true where it was damaged and is whole now
 * @throws OrvidError `not-found`, `damaged` where that cannot be done
 */
export function mendRecording(audioId: string): Promise<boolean> {
  const run = mendings().get(audioId) ?? mend(audioId).finally(() => mendings().delete(audioId));
  mendings().set(audioId, run);
  return run;
}

/**
 * Does something with recordings. Where one turns out to be damaged it is made anew, and the work is done once more.
 * @throws OrvidError `damaged` for one that cannot be made anew
 */
export async function withWholeRecordings<T>(audioIds: readonly string[], work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (thrown) {
    if (asOrvidError(thrown).code !== 'damaged') throw thrown;
    for (const audioId of new Set(audioIds)) await mendRecording(audioId);
    return work();
  }
}

/** A page of a recording. */
export interface PageName {
  audioId: string;
  page: number;
}

/**
 * Pages of samples: planar, packed in as many bits as each recording's are written in.
 * @param isAskedAgain true for those that are kept for a moment, since more will be asked of them
 * @returns their bytes, bits and channels, and a tag that changes with them
 * @throws OrvidError `not-found` for a page beyond the end, `damaged`
 */
export async function readPages(
  pages: readonly PageName[],
  isAskedAgain: (index: number) => boolean = () => false,
): Promise<{ bytes: Uint8Array[]; bits: SampleBits[]; channels: number[]; tag: string }> {
  const audioIds = [...new Set(pages.map(({ audioId }) => audioId))];
  const rows = await storedAudios(audioIds);
  const frozen = await frozenAmong(audioIds.filter((audioId) => !rows.has(audioId)));
  const kept = audioIds.filter((audioId) => !frozen.has(audioId));
  if (rows.size < kept.length) throw noSuchRecording();
  let known: ReadonlyMap<string, StoredRecording> | null = recordingsOf(rows);
  const lengthOf = (audioId: string) => (frozen.get(audioId) ?? known!.get(audioId)!).lengthFrames;
  if (pages.some(({ audioId, page }) => page * PAGE_FRAMES >= lengthOf(audioId)))
    throw new OrvidError('not-found', 'There is no such page of a recording.');
  return withWholeRecordings(kept, async () => {
    // What was made anew is written anew.
    const recordings = new Map([...(known ?? recordingsOf(await needAudios(kept))), ...frozen]);
    known = null;
    const bytes = await Promise.all(
      pages.map(async ({ audioId, page }, i) => {
        const recording = recordings.get(audioId)!;
        const read = () => readChecked(recording, page);
        return (isAskedAgain(i) ? recentPage(recording.pages, page, read) : read()).catch((thrown: unknown) => {
          throw frozen.has(audioId) ? frozenDamaged(recording.pages.name) : thrown;
        });
      }),
    );
    const asked = pages.map(({ audioId }) => recordings.get(audioId)!);
    const written = asked.map((recording) => recording.pages);
    const tags = pages.map(({ page }, i) => {
      const { checksums } = written[i];
      return checksums ? checksumOf(checksums, page) : crc32Text(bytes[i]);
    });
    return {
      bytes,
      bits: written.map(({ bits }) => bits),
      channels: asked.map(({ channels }) => channels),
      tag: tags.join(''),
    };
  });
}

const recordingsOf = (rows: ReadonlyMap<string, AudioRow>): ReadonlyMap<string, StoredRecording> =>
  new Map([...rows].map(([id, row]) => [id, recordingOf(row)]));

/** The renders of frozen tracks among what is no recording. */
async function frozenAmong(audioIds: readonly string[]): Promise<ReadonlyMap<string, StoredRecording>> {
  const found = await Promise.all(audioIds.map(async (audioId) => [audioId, await findFrozen(audioId)] as const));
  return new Map(found.flatMap(([audioId, recording]) => (recording ? [[audioId, recording]] : [])));
}

/** Pieces of a recording that lie in one page, from the first to the last. */
export interface PieceRun {
  audioId: string;
  first: number;
  last: number;
}

const pageOfPiece = (piece: number) => Math.floor(piece / PIECES_OF_PAGE);

/**
 * Pieces of pages, one after the other: each planar, packed in as many bits as its recording's are.
 * @returns bits for each run
 * @throws OrvidError as {@link readPages} does, `not-found` for a piece beyond the end, `invalid-input` for a run that is in two pages
 */
export async function readPieces(
  runs: readonly PieceRun[],
): Promise<{ bytes: Uint8Array; bits: SampleBits[]; tag: string }> {
  if (runs.some(({ first, last }) => last < first || pageOfPiece(first) !== pageOfPiece(last)))
    throw new OrvidError(
      'invalid-input',
      `Pieces that are asked for together lie in one page, which has ${PIECES_OF_PAGE}.`,
    );
  const {
    bytes: pages,
    bits,
    channels,
    tag,
  } = await readPages(
    runs.map(({ audioId, first }) => ({ audioId, page: pageOfPiece(first) })),
    (i) => runs[i].last - runs[i].first + 1 < PIECES_OF_PAGE,
  );
  const parts = runs.flatMap(({ first, last }, i) => {
    const frames = (pages[i].length * 8) / bits[i] / channels[i];
    const at = (side: number, frame: number) => packedBytes(side * frames + frame, bits[i]);
    const from = pageOfPiece(first) * PIECES_OF_PAGE;
    return Array.from({ length: last - first + 1 }, (_, n) => {
      const begin = (first + n - from) * PIECE_FRAMES;
      const end = Math.min(frames, begin + PIECE_FRAMES);
      if (begin >= end) throw new OrvidError('not-found', 'There is no such piece of a recording.');
      return Array.from({ length: channels[i] }, (__, side) => pages[i].subarray(at(side, begin), at(side, end)));
    }).flat();
  });
  const names = runs.map(({ first, last }) => `${first}-${last}`);
  return { bytes: Buffer.concat(parts), bits, tag: `${tag}.${names.join()}` };
}

/** One page of a recording's samples. @throws OrvidError as {@link readPages} does */
export const readPage = async (audioId: string, page: number): Promise<Uint8Array> =>
  (await readPages([{ audioId, page }])).bytes[0];
