import { execFileSync, spawnSync } from 'node:child_process';
import { createWriteStream, mkdtempSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { ZipFile } from 'yazl';
import { emptySong, newTrack } from '@/core/song';
import { recordingIdOf } from '@/server/audio/checksum';
import { BUNDLE_VERSION, MANIFEST_NAME } from '@/server/bundle/manifest';
import { tone } from './support';

/**
 * A song of forty tracks is packed and opened where nothing of it is: both sound the same to the bit. A bundle of twenty gigabytes of silence is
 * refused in words. How long it takes, and the most memory that the command holds.
 */
const TRACKS = 40;
const SECONDS = 30;
const SILENCE_BYTES = 20e9;
const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-bundle-'));
const at = (name: string) => path.join(folder, name);

/** Runs the command line with the folder of its own data. @returns what it printed, its seconds, its most memory in MiB */
function orvid(data: string, ...args: string[]) {
  const started = performance.now();
  const run = spawnSync('/usr/bin/time', ['-v', process.execPath, 'build/cli.mjs', ...args], {
    env: { ...process.env, ORVID_DATA_DIR: at(data), ORVID_LOG: 'silent' },
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  const memory = Number(/Maximum resident set size \(kbytes\): (\d+)/.exec(run.stderr)?.[1] ?? NaN) / 1024;
  return { ...run, seconds: (performance.now() - started) / 1000, memory };
}

const files = Array.from({ length: TRACKS }, (_, i) => {
  const file = at(`Track ${i + 1}.wav`);
  writeFileSync(file, tone(80 + 37 * i, SECONDS));
  return file;
});
const id = orvid('here', 'new', 'Forty', ...files).stdout.trim();
const packed = orvid('here', 'pack', id, at('forty.orvid.zip'));
execFileSync('unzip', ['-t', '-q', at('forty.orvid.zip')]);
const unpacked = orvid('there', 'unpack', at('forty.orvid.zip'));
const otherId = unpacked.stdout.trim();
orvid('here', 'render', id, at('here.wav'), '--bits', '24');
orvid('there', 'render', otherId, at('there.wav'), '--bits', '24');
// The day of the last change stands before the samples.
const sound = (name: string) => readFileSync(at(name)).subarray(1000);
const isSame = sound('here.wav').equals(sound('there.wav'));
console.log(
  `${TRACKS} tracks of ${SECONDS} s, ${(statSync(at('forty.orvid.zip')).size / 1e6).toFixed(0)} MB: packed in ${packed.seconds.toFixed(1)} s (${packed.memory.toFixed(0)} MiB), opened elsewhere in ${unpacked.seconds.toFixed(1)} s (${unpacked.memory.toFixed(0)} MiB); the mix is ${isSame ? 'the same to the bit' : 'NOT THE SAME'}.`,
);

function* zeros(): Generator<Buffer> {
  const piece = Buffer.alloc(1 << 22);
  for (let left = SILENCE_BYTES; left > 0; left -= piece.length) yield piece.subarray(0, Math.min(left, piece.length));
}
const sha256 = 'c'.repeat(64);
const audioId = recordingIdOf(sha256, 48000);
const song = {
  ...emptySong('Silence', 48000),
  tracks: [newTrack({ audioId, channels: 1, lengthFrames: 1e9 }, { id: 't', name: 'Silence', ink: 0 })],
};
const recording = { audioId, sha256, bytes: SILENCE_BYTES, file: 'recordings/001-Silence.wav', name: 'Silence.wav' };
const zip = new ZipFile();
zip.addBuffer(
  Buffer.from(JSON.stringify({ format: 'orvid.bundle', version: BUNDLE_VERSION, song, recordings: [recording] })),
  MANIFEST_NAME,
);
zip.addReadStreamLazy(recording.file, { compress: true, compressionLevel: 1, size: SILENCE_BYTES }, (give) =>
  give(null, Readable.from(zeros())),
);
zip.end();
await pipeline(zip.outputStream, createWriteStream(at('silence.orvid.zip')));
const silence = orvid('there', 'unpack', at('silence.orvid.zip'));
console.log(
  `${SILENCE_BYTES / 1e9} GB of silence in ${(statSync(at('silence.orvid.zip')).size / 1e6).toFixed(0)} MB: exit ${silence.status}, ${silence.seconds.toFixed(1)} s, ${silence.memory.toFixed(0)} MiB: ${silence.stderr.split('\n')[0]}`,
);
rmSync(folder, { recursive: true, force: true });
