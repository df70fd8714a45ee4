import { spawnSync } from 'node:child_process';
import { existsSync, readFileSync, rmSync, utimesSync, writeFileSync } from 'node:fs';
import { eq } from 'drizzle-orm';
import { PcmEncoder, wavHeader } from '@/core/formats';
import { discardLeftovers, findAudio, incomingPath, originalPath } from '../audio/store';
import { database } from '../database/client';
import { jobs as jobRows } from '../database/schema';
import { receiveUpload, startImport } from '../import/import-track';
import { plainOrder } from '@/core/renders';
import { startRenders } from '../render/render-job';
import { createEmptySong, loadSong } from '../songs/store';
import { singleton } from '../singleton';
import { ownDataFolder } from '../testing/data-folder';
import { endPools } from '../workers/pool';
import type { Job, JobTask } from './job';
import {
  cancelJob,
  findJob,
  jobsEnded,
  jobsOfSong,
  leaveJobs,
  moveJob,
  resumeJobs,
  setRunner,
  startJob,
  startJobs,
} from './jobs';

ownDataFolder();

const wav = (frames: number) => {
  const samples = Float64Array.from({ length: frames }, (_, n) => 0.25 * Math.sin(n / 20));
  return Buffer.concat([
    wavHeader({ channels: 1, rateHz: 48000, format: '24', frames }),
    new PcmEncoder(1, '24').encode([samples], frames),
  ]);
};
const upload = (name: string, frames = 24000) => receiveUpload(new Response(wav(frames)).body, name);
const order: JobTask = {
  kind: 'render',
  revision: 0,
  file: {
    name: 'x.wav',
    what: 'mix',
    title: 'mix',
    span: { name: '', startSeconds: 0, endSeconds: 1 },
    throughMaster: true,
  },
  settings: plainOrder.settings,
};

/** What the database holds after a crash in the middle of a job. */
async function asAfterCrash(job: Job): Promise<void> {
  const db = await database();
  await db
    .update(jobRows)
    .set({ isRunning: true, job: { ...job, state: 'running', step: 'decoding', progress: 0.5, resultId: undefined } })
    .where(eq(jobRows.id, job.id));
}

test('an import that a crash has interrupted is done at the next start, once, however far it had come', async () => {
  const { id } = await createEmptySong('Crash', 48000);
  const file = await upload('Cello.wav');
  const job = await startImport(id, file, 'Cello.wav');
  await jobsEnded();
  const { resultId } = await findJob(job.id);
  // It had ended, but nobody had written that down.
  await asAfterCrash(job);
  expect(await resumeJobs()).toMatchObject([{ kind: 'import', fileName: 'Cello.wav' }]);
  await jobsEnded();
  expect(await findJob(job.id)).toMatchObject({ state: 'done', resultId });
  expect((await loadSong(id)).song.tracks).toHaveLength(1);
  expect(await resumeJobs()).toEqual([]);
});

test('an import whose track is in the song, but whose original was not put away yet, keeps its original', async () => {
  const { id } = await createEmptySong('Original', 48000);
  const file = await upload('Harp.wav');
  const bytes = readFileSync(file);
  const job = await startImport(id, file, 'Harp.wav');
  await jobsEnded();
  const { originalHash } = (await findAudio((await loadSong(id)).song.tracks[0].audioId))!;
  rmSync(originalPath(originalHash));
  writeFileSync(file, bytes);
  await asAfterCrash(job);
  await resumeJobs();
  await jobsEnded();
  expect(readFileSync(originalPath(originalHash)).equals(bytes)).toBe(true);
  expect(existsSync(file)).toBe(false);
});

test('a server that stops in the middle of an import leaves its file, so that the next start takes it up', async () => {
  const { id } = await createEmptySong('Stopped', 48000);
  const file = await upload('Lute.wav', 60 * 48000);
  const job = await startImport(id, file, 'Lute.wav');
  while ((await findJob(job.id)).step === 'waiting') await new Promise((done) => setTimeout(done, 5));
  leaveJobs();
  await endPools();
  await jobsEnded();
  expect(existsSync(file)).toBe(true);
  // The next start.
  singleton('jobs-left', () => ({ isLeft: true })).isLeft = false;
  singleton('jobs', () => new Map()).clear();
  expect(await resumeJobs()).toMatchObject([{ fileName: 'Lute.wav' }]);
  await jobsEnded();
  expect(await findJob(job.id)).toMatchObject({ state: 'done' });
  expect((await loadSong(id)).song.tracks).toHaveLength(1);
});

test('an import whose file is gone has failed, with its name; files that jobs wait for, or that are worked on, are not cleared away', async () => {
  const { id } = await createEmptySong('Gone', 48000);
  const kept = await upload('Kept.wav');
  const lost = await upload('Lost.wav');
  // Both lay there before this process began.
  for (const file of [kept, lost]) utimesSync(file, 1, 1);
  const coming = await upload('Coming.wav');
  const ended = spawnSync(process.execPath, ['--version']).pid;
  const others = [process.ppid, ended].map((pid) => incomingPath(`${pid}-abc`));
  for (const file of others) writeFileSync(file, '');
  const db = await database();
  const facts = {};
  for (const [name, file] of [
    ['Kept.wav', kept],
    ['Lost.wav', lost],
  ]) {
    const job: Job = { id: name, songId: id, kind: 'import', name, state: 'running', step: 'waiting', progress: 0 };
    const task: JobTask = { kind: 'import', upload: file.split('/').at(-1)!, fileName: name, facts };
    await db.insert(jobRows).values({ id: name, songId: id, job, task, isRunning: true, changedAt: new Date() });
  }
  await discardLeftovers([kept.split('/').at(-1)!]);
  expect([kept, lost, coming, ...others].map((file) => existsSync(file))).toEqual([true, false, true, true, false]);
  rmSync(others[0]);
  await resumeJobs();
  await jobsEnded();
  expect(await findJob('Kept.wav')).toMatchObject({ state: 'done' });
  expect(await findJob('Lost.wav')).toMatchObject({
    state: 'failed',
    error: {
      message: expect.stringContaining('“Lost.wav” was not read'),
      kept: expect.stringContaining('Add the file again'),
    },
  });
  expect((await loadSong(id)).song.tracks.map(({ name }) => name)).toEqual(['Kept']);
  expect(existsSync(incomingPath(kept))).toBe(false);
});

test('a render goes on after a crash, with the song as it stood when it was asked for', async () => {
  const { id } = await createEmptySong('Render', 48000);
  await startImport(id, await upload('Viola.wav'), 'Viola.wav');
  await jobsEnded();
  const [job] = await startRenders(id, plainOrder);
  await jobsEnded();
  const done = await findJob(job.id);
  await asAfterCrash(job);
  await resumeJobs();
  await jobsEnded();
  expect(await findJob(job.id)).toEqual({ ...done, startedAt: expect.any(Number) });
  expect((await jobsOfSong(id)).map(({ kind, state }) => `${kind} ${state}`)).toEqual(['import done', 'render done']);
});

test('of what stands in line two are done at once; the rest waits, can be moved, and is taken up in its order after a crash', async () => {
  const begun: string[] = [];
  const gates = new Map<string, () => void>();
  setRunner('render', async ({ id }, task, signal) => {
    begun.push(task.file.name);
    await new Promise<void>((resolve, reject) => {
      gates.set(task.file.name, resolve);
      signal.addEventListener('abort', () => reject(new Error('aborted')));
    });
    return { resultId: id };
  });
  const named = (name: string) => ({
    about: { songId: 'line', name },
    task: { ...order, file: { ...order.file, name } },
  });
  const started = await startJobs(['a', 'b', 'c', 'd', 'e'].map(named));
  const idOf = (name: string) => started.find((job) => job.name === name)!.id;
  const settled = () => new Promise((done) => setTimeout(done, 20));
  await settled();
  expect(begun).toEqual(['a', 'b']);
  expect((await findJob(idOf('c'))).state).toBe('waiting');
  await moveJob(idOf('e'), idOf('d'));
  await moveJob(idOf('d'), null);
  await cancelJob(idOf('c'));
  await expect(moveJob(idOf('a'), null)).rejects.toMatchObject({ code: 'not-found' });
  await settled();
  expect((await findJob(idOf('c'))).state).toBe('cancelled');
  // A crash: nothing of it is in memory any more.
  singleton('jobs', () => new Map()).clear();
  const line = singleton<{ waiting: Set<unknown>; busy: number }>('job-line', () => ({ waiting: new Set(), busy: 0 }));
  line.waiting.clear();
  line.busy = 0;
  begun.length = 0;
  expect(await resumeJobs()).toHaveLength(4);
  await settled();
  expect(begun).toEqual(['a', 'b']);
  for (const name of ['a', 'b', 'd', 'e']) {
    while (!gates.has(name) || !begun.includes(name)) await settled();
    gates.get(name)!();
    await settled();
  }
  await jobsEnded();
  expect(begun).toEqual(['a', 'b', 'd', 'e']);
  expect((await jobsOfSong('line')).map(({ name, state }) => `${name} ${state}`).sort()).toEqual([
    'a done',
    'b done',
    'c cancelled',
    'd done',
    'e done',
  ]);
});

test('once the server stops nothing that waits begins; it is taken up at the next start', async () => {
  const begun: string[] = [];
  const gates: (() => void)[] = [];
  setRunner('render', async ({ id, name }) => {
    begun.push(name);
    await new Promise<void>((resolve) => gates.push(resolve));
    return { resultId: id };
  });
  await startJobs(['a', 'b', 'c'].map((name) => ({ about: { songId: 'stop', name }, task: order })));
  const settled = () => new Promise((done) => setTimeout(done, 20));
  await settled();
  leaveJobs();
  gates.splice(0).forEach((open) => open());
  await settled();
  expect(begun).toEqual(['a', 'b']);
  // The next start.
  singleton('jobs-left', () => ({ isLeft: true })).isLeft = false;
  singleton('jobs', () => new Map()).clear();
  singleton<{ waiting: Set<unknown> }>('job-line', () => ({ waiting: new Set() })).waiting.clear();
  await resumeJobs();
  await settled();
  expect(begun).toEqual(['a', 'b', 'c']);
  gates.splice(0).forEach((open) => open());
  await jobsEnded();
});

test('a job tells its progress, keeps its error, and cannot be cancelled once it is over', async () => {
  setRunner('render', async (_, __, ___, report) => {
    report('working', 0.5);
    throw new Error('inside');
  });
  const job = await startJob({ songId: 's', name: 'x' }, order);
  await jobsEnded();
  expect(await findJob(job.id)).toMatchObject({
    state: 'failed',
    step: 'working',
    progress: 0.5,
    error: { code: 'internal' },
  });
  await cancelJob(job.id);
  expect((await findJob(job.id)).state).toBe('failed');
  await expect(cancelJob('none')).rejects.toMatchObject({ code: 'not-found' });
});
