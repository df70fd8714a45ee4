import { readFile, stat } from 'node:fs/promises';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { waveformStretch } from '@/core/measure';
import {
  MOST_PROOF_BYTES,
  PROOF_PEAKS,
  proofBytes,
  proofPage,
  type Proof,
  type ProofItem,
  type ProofOrder,
} from '@/core/proof';
import { recallOf } from '@/core/recall';
import { plainName, spanFrames, wholeSong } from '@/core/renders';
import { findStrip, MASTER_ID, songLengthFrames, type Song } from '@/core/song';
import { readWaveform } from '../audio/measured';
import { discard, settle, temporaryPath } from '../audio/store';
import { config } from '../config';
import type { Job, JobResult, ProofTaskOrder } from '../jobs/job';
import { setRunner, startJob, type Report } from '../jobs/jobs';
import { finishedPath, keepFinished } from '../render/finished';
import { withPageFiles } from '../render/render-job';
import { changedAt, songAt } from '../songs/history';
import { loadSong } from '../songs/store';
import { runInWorker } from '../workers/pool';
import type { ProofTask } from './make-proof';

/** What plays the page: bundled, see `proof/player.ts`. */
export const proofPlayer = (): Promise<string> => readFile(path.join(config().buildDir, 'proof-player.js'), 'utf8');

const DATE = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' });
const NO_PEAKS = { gainDb: 0, peaks: Array.from({ length: PROOF_PEAKS }, () => 0) };

/** What was done to a strip, or to the mix, in words. */
function movesOf(song: Song, stripId: string): string[] {
  const [strip] = recallOf(song, { stripIds: [stripId] }).strips;
  return (strip?.processors ?? []).flatMap(({ isOn, name, lines }) =>
    isOn ? lines.map(({ label, text, why }) => `${name}: ${label}, ${text}${why ? ` (${why})` : ''}`) : [],
  );
}

/** A proof without its sounds, and its range. @throws OrvidError `invalid-input` for what cannot be in it, `too-large` */
export function planProof(song: Song, order: ProofOrder, date: string) {
  if (songLengthFrames(song) === 0)
    throw new OrvidError('invalid-input', 'There is nothing to show: the song has no tracks yet.');
  const span = order.span ?? wholeSong(song);
  const range = spanFrames(song, span);
  const seconds = (range.endFrame - range.startFrame) / song.rateHz;
  if (seconds <= 0)
    throw new OrvidError('invalid-input', 'There is nothing to show: it begins behind the end of the song.');
  if (proofBytes(order, seconds) > MOST_PROOF_BYTES)
    throw new OrvidError(
      'too-large',
      'This is too much for one page.',
      'Choose fewer tracks, a part, or a lower quality.',
    );
  const itemOf = (id: string): ProofItem => {
    const strip = findStrip(song, id);
    if (!strip) throw new OrvidError('not-found', 'One of the chosen tracks is gone.');
    return {
      id,
      name: 'name' in strip ? strip.name : 'The mix',
      before: NO_PEAKS,
      after: NO_PEAKS,
      moves: order.tellsMoves ? movesOf(song, id) : [],
    };
  };
  const start = range.startFrame / song.rateHz;
  const proof: Proof = {
    title: span.name ? `${song.title}: ${span.name}` : song.title,
    notes: order.notes,
    seconds,
    date,
    parts: song.parts
      .map(({ name, startSeconds }) => ({ name, startSeconds: startSeconds - start }))
      .filter(({ startSeconds }) => startSeconds >= 0 && startSeconds < seconds - 0.05),
    items: [MASTER_ID, ...order.strips].map(itemOf),
  };
  return { proof, range };
}

const proofName = (title: string) => `${plainName(title) || 'song'}-proof.html`;

/** Puts a proof of the song as it stands into the line. @throws OrvidError as {@link planProof} does */
export async function startProof(songId: string, order: ProofOrder): Promise<Job> {
  const { song, revision } = await loadSong(songId);
  planProof(song, order, '');
  return startJob({ songId, name: proofName(song.title) }, { kind: 'proof', revision, order });
}

/** What is needed to make a proof of a song. @param changed when it was changed last */
export async function proofTask(
  song: Song,
  order: ProofOrder,
  changed: Date,
): Promise<Omit<ProofTask, 'pageFiles' | 'out'>> {
  return { song, ...planProof(song, order, DATE.format(changed)), kbps: order.kbps, player: await proofPlayer() };
}

/** A recording's waveform over a stretch, so that the page can be looked at before it is made. */
async function peaksOf(audioId: string, range: { startFrame: number; endFrame: number }): Promise<number[]> {
  const packed = await readWaveform(audioId);
  const { extremes } = waveformStretch(packed, range.startFrame, range.endFrame, 4 * PROOF_PEAKS);
  const frames = extremes.length / 2;
  return Array.from({ length: PROOF_PEAKS }, (_, i) => {
    let peak = 0;
    for (let at = Math.floor((i * frames) / PROOF_PEAKS); at < Math.floor(((i + 1) * frames) / PROOF_PEAKS); at++)
      peak = Math.max(peak, Math.abs(extremes[2 * at]), Math.abs(extremes[2 * at + 1]));
    return peak;
  });
}

/** The page as it will be, without its sound; waveforms are those of the recordings. */
export async function previewProof(songId: string, order: ProofOrder): Promise<string> {
  const { song, revision } = await loadSong(songId);
  const { proof, range } = planProof(song, order, DATE.format(await changedAt(songId, revision)));
  const items = await Promise.all(
    proof.items.map(async (item) => {
      const tracks = item.id === MASTER_ID ? song.tracks : song.tracks.filter(({ id }) => id === item.id);
      const rows = await Promise.all(tracks.map(({ audioId }) => peaksOf(audioId, range)));
      const peaks = NO_PEAKS.peaks.map((_, i) => Math.hypot(...rows.map((row) => row[i])));
      return { ...item, before: { gainDb: 0, peaks }, after: { gainDb: 0, peaks } };
    }),
  );
  const { head, foot } = proofPage({ ...proof, items }, null);
  return head + foot;
}

async function writeProof(
  { id, songId, name }: Pick<Job, 'id' | 'songId' | 'name'>,
  { revision, order }: ProofTaskOrder,
  signal: AbortSignal,
  report: Report,
): Promise<JobResult> {
  const { song } = await songAt(songId, revision);
  const out = await temporaryPath();
  try {
    const task = await proofTask(song, order, await changedAt(songId, revision));
    await withPageFiles(song, async (pageFiles) => {
      await discard(out);
      await runInWorker('proof', { ...task, pageFiles, out } satisfies ProofTask, signal, report);
    });
    signal.throwIfAborted();
    const final = finishedPath(id, name);
    await settle(out, final);
    const { size } = await stat(final);
    await keepFinished({
      id,
      songId,
      revision,
      fileName: name,
      format: 'proof',
      about: { kind: 'proof', bytes: size },
    });
    return { resultId: id };
  } finally {
    await discard(out, `${out}.mp3`);
  }
}
setRunner('proof', writeProof);
