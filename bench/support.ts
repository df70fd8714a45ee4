import { spawnSync } from 'node:child_process';
import { performance } from 'node:perf_hooks';
import type { SampleSource } from '@/core/engine';
import { PcmEncoder, wavHeader } from '@/core/formats';
import { emptyEqualizer, emptySong, newBandSettings, newTrack, type Song } from '@/core/song';

/** Tools of the benchmarks: everything that is compared is run in turns in one run. */

export const median = (values: readonly number[]): number =>
  [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)];
export const percentile = (values: readonly number[], share: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * share))];

export interface ProcessCost {
  wallSeconds: number;
  cpuSeconds: number;
  peakMebibytes: number;
}

/** Runs a command as a whole process: wall time, and CPU time and peak of resident memory as the system counts them for it. */
export function runMeasured(
  command: string,
  args: readonly string[],
  env: NodeJS.ProcessEnv = process.env,
): ProcessCost {
  const started = performance.now();
  const script =
    'import os,sys,resource,subprocess;r=subprocess.run(sys.argv[1:],stdout=subprocess.DEVNULL,stderr=subprocess.PIPE);u=resource.getrusage(resource.RUSAGE_CHILDREN);sys.stderr.write(r.stderr.decode() if r.returncode else "");print(u.ru_utime+u.ru_stime,u.ru_maxrss);sys.exit(r.returncode)';
  const result = spawnSync('/usr/bin/python3', ['-c', script, command, ...args], { encoding: 'utf8', env });
  if (result.status !== 0) throw new Error(`${command} failed: ${result.stderr}`);
  const [cpuSeconds, kibibytes] = result.stdout.trim().split(' ').map(Number);
  return { wallSeconds: (performance.now() - started) / 1000, cpuSeconds, peakMebibytes: kibibytes / 1024 };
}

/** A table for the terminal and for documents: the first row is the head. */
export function table(rows: readonly (readonly (string | number)[])[]): string {
  const [head, ...body] = rows.map((row) => `| ${row.join(' | ')} |`);
  return [head, `|${rows[0].map(() => '---').join('|')}|`, ...body].join('\n');
}

/** A mono WAV file of 16 bit with a sine in it. */
export function tone(hz: number, seconds: number): Buffer {
  const shape = { channels: 1, rateHz: 48000, format: '16' as const };
  const frames = Math.round(seconds * shape.rateHz);
  const samples = Float64Array.from(
    { length: frames },
    (_, n) => 0.25 * Math.sin((2 * Math.PI * hz * n) / shape.rateHz),
  );
  return Buffer.concat([wavHeader({ ...shape, frames }), new PcmEncoder(1, '16').encode([samples], frames)]);
}

const samples = Float64Array.from({ length: 65536 }, (_, n) => 0.1 * Math.sin(n / 7) + 0.1 * Math.sin(n / 31));

/** A recording of two sines without an end, the same on both sides. */
export const sines = (channels: 1 | 2): SampleSource => ({
  channels,
  read: (frame, count, left, right) => {
    const start = frame % 32768;
    for (let n = 0; n < count; n++) left[n] = samples[start + n];
    if (channels === 2) for (let n = 0; n < count; n++) right[n] = samples[start + n];
  },
});

/** A song of so many tracks with so many bells each, all of the same recording. */
export function benchSong(
  tracks: number,
  bands: number,
  recording: { audioId: string; channels: 1 | 2; lengthFrames: number },
): Song {
  const bells = (track: number) =>
    Array.from({ length: bands }, (_, b) => ({
      ...newBandSettings('bell', 80 * 1.7 ** b),
      gainDb: b % 2 === 0 ? 3 : -3,
      id: `${track}-${b}`,
      letter: `${b}`,
    }));
  return {
    ...emptySong('Bench'),
    tracks: Array.from({ length: tracks }, (_, i) => ({
      ...newTrack(recording, { id: `t${i}`, name: `t${i}`, ink: i }),
      gainDb: -30,
      chain: [{ ...emptyEqualizer(`e${i}`), bands: bells(i) }],
    })),
  };
}
