import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import os from 'node:os';
import path from 'node:path';
import { SoundMeter, type SoundFigures } from '@/core/measure';
import type { Suspect } from '@/core/suspects';
import { SuspectFinder } from '@/core/suspects/finder';
import { withDecodedAudio } from './decode';

/** Real recordings, CC0, from Debian's package sonic-pi-samples. */
const recording = (name: string) => path.join('/usr/share/sonic-pi/samples', `${name}.flac`);

async function pushed(file: string, push: (rateHz: number, block: ArrayLike<number>[]) => void): Promise<number> {
  return withDecodedAudio(file, async (audio) => {
    for await (const block of audio.blocks) push(audio.rateHz, block);
    return audio.rateHz;
  });
}

async function figuresOf(file: string): Promise<SoundFigures> {
  let meter: SoundMeter | undefined;
  await pushed(file, (rateHz, block) => (meter ??= new SoundMeter(rateHz, block.length)).push(block));
  return meter!.finish();
}

async function suspectsOf(file: string): Promise<Suspect[]> {
  let finder: SuspectFinder | undefined;
  await pushed(file, (rateHz, block) => (finder ??= new SuspectFinder(rateHz, 0)).push(block));
  return finder!.finish();
}

/** The summary of ffmpeg's `ebur128`, an implementation of EBU R 128 of its own. */
function reference(file: string): { lufs: number; rangeLu: number; truePeakDb: number } {
  const { stderr } = spawnSync(
    'ffmpeg',
    ['-hide_banner', '-nostats', '-i', file, '-filter_complex', 'ebur128=peak=true', '-f', 'null', '-'],
    { encoding: 'utf8' },
  );
  const summary = stderr.slice(stderr.lastIndexOf('Summary:'));
  const read = (name: string) => Number(new RegExp(`${name}:\\s+(-?[\\d.]+)`).exec(summary)![1]);
  return { lufs: read('I'), rangeLu: read('LRA'), truePeakDb: read('Peak') };
}

test.each(['loop_amen_full', 'ambi_choir', 'loop_garzul', 'guit_em9', 'loop_safari', 'ambi_piano', 'bass_voxy_hit_c'])(
  'loudness and true peak of %s are those of ffmpeg’s ebur128',
  async (name) => {
    const expected = reference(recording(name));
    const found = await figuresOf(recording(name));
    expect(Math.abs(found.integratedLufs! - expected.lufs)).toBeLessThanOrEqual(0.1);
    expect(Math.abs(found.truePeakDbtp - expected.truePeakDb)).toBeLessThanOrEqual(0.3);
  },
);

// Range wants more than some seconds: several recordings one after the other.
test('the loudness range of recordings that follow each other is that of ffmpeg’s ebur128', async () => {
  const folder = mkdtempSync(path.join(os.tmpdir(), 'orvid-range-'));
  const joined = path.join(folder, 'joined.wav');
  const names = ['ambi_choir', 'loop_garzul', 'guit_em9', 'loop_safari', 'ambi_piano', 'loop_amen_full', 'loop_mika'];
  try {
    const { status } = spawnSync('sox', [...names.map(recording), '-r', '44100', '-c', '2', '-b', '24', joined]);
    expect(status).toBe(0);
    const found = await figuresOf(joined);
    expect(Math.abs(found.loudnessRangeLu - reference(joined).rangeLu)).toBeLessThanOrEqual(0.5);
    expect(found.loudnessRangeLu).toBeGreaterThan(3);
  } finally {
    rmSync(folder, { recursive: true });
  }
});

// Clean recordings: drum loops, a choir, a piano, a bass. Two guitars of the same package do hum, at 60 Hz.
// What the thresholds allow: 0.7 on a clean recording on average, see docs/suspects.md.
test('clean recordings have few suspects', async () => {
  let found = 0;
  const names = [
    'loop_amen_full',
    'loop_garzul',
    'loop_safari',
    'loop_compus',
    'loop_mika',
    'ambi_choir',
    'ambi_piano',
  ];
  for (const name of names) found += (await suspectsOf(recording(name))).length;
  expect(found / names.length).toBeLessThanOrEqual(0.7);
});

test('the hum of a real guitar recording is found', async () => {
  const [hum] = await suspectsOf(recording('guit_em9'));
  expect(hum.kind).toBe('hum');
  expect(Math.abs(hum.frequencyHz - 60)).toBeLessThan(0.3);
});
