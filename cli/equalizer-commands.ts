import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { canAct, Cascade, equalizerSections } from '@/core/engine';
import {
  designEqualizer,
  groupDelayMs,
  logSpacedHz,
  magnitudeDb,
  phaseDegrees,
  runningFrequencyHz,
} from '@/core/filters';
import { parseEqualizerFile, type FileEqualizer, type RenderFormat } from '@/core/formats';
import type { BandChannel } from '@/core/song';
import { withDecodedAudio } from '@/server/audio/decode';
import { clippingRemark } from '@/server/render/naming';
import { writeWav, type FloatBlock, type SoundBlock } from '@/server/render/write-wav';
import { resolvePath, wholeOrNothing } from './output';

/** An equalizer file, checked; a frequency that has to be moved at a rate is reported. */
async function readEqualizer(file: string, rateHz: number): Promise<FileEqualizer> {
  const name = path.basename(file);
  let text: string;
  try {
    text = await readFile(resolvePath(file), 'utf8');
  } catch {
    throw new OrvidError('invalid-input', `${file}: the file cannot be read.`);
  }
  const equalizer = parseEqualizerFile(text, name);
  equalizer.bands.forEach((band, i) => {
    const running = runningFrequencyHz(band.frequencyHz, rateHz);
    if (running < band.frequencyHz) {
      console.error(
        `${name}: bands[${i}]: ${band.frequencyHz} Hz is too near to half of ${rateHz} Hz; it runs at ${running} Hz.`,
      );
    }
  });
  return equalizer;
}

export async function response(
  file: string,
  rateHz: number,
  frequenciesHz: ArrayLike<number>,
  channel: BandChannel,
): Promise<void> {
  const beyond = Array.from(frequenciesHz).find((hz) => hz > rateHz / 2);
  if (beyond !== undefined)
    throw new OrvidError('invalid-input', `--freqs: ${beyond} Hz lies above half of the rate, ${rateHz / 2} Hz.`);
  const sections = designEqualizer(await readEqualizer(file, rateHz), rateHz, channel);
  const lines = Array.from(frequenciesHz, (hz) =>
    [
      hz,
      magnitudeDb(sections, hz, rateHz),
      phaseDegrees(sections, hz, rateHz),
      groupDelayMs(sections, hz, rateHz),
    ].join(','),
  );
  console.log(['frequency_hz,magnitude_db,phase_deg,group_delay_ms', ...lines].join('\n'));
}

/** `count` frequencies from 20 Hz to 20 kHz, or to half the rate where that is lower. */
export const pointsUpTo20k = (count: number, rateHz: number) => logSpacedHz(20, Math.min(20000, rateHz / 2), count);

export async function sections(file: string, rateHz: number, channel: BandChannel): Promise<void> {
  const lines = designEqualizer(await readEqualizer(file, rateHz), rateHz, channel).map(({ b0, b1, b2, a1, a2 }) =>
    [b0, b1, b2, 1, a1, a2].join(','),
  );
  console.log(['b0,b1,b2,a0,a1,a2', ...lines].join('\n'));
}

/** A cascade that runs an equalizer. @throws OrvidError `invalid-input` for a band that acts on one of two channels that are not there */
function cascadeOf(equalizer: FileEqualizer, rateHz: number, channels: 1 | 2, input: string): Cascade {
  const idle = equalizer.bands.findIndex((band) => !canAct(band, channels));
  if (idle >= 0)
    throw new OrvidError(
      'invalid-input',
      `bands[${idle}].channel: “${equalizer.bands[idle].channel}” needs two channels, and ${input} is mono. Nothing was written.`,
    );
  const cascade = new Cascade(rateHz);
  cascade.setTarget(equalizerSections(equalizer, rateHz, channels), true);
  return cascade;
}

const asFloat64 = (samples: ArrayLike<number>) =>
  samples instanceof Float64Array ? samples : Float64Array.from(samples);

export async function apply(file: string, input: string, output: string, format: RenderFormat): Promise<void> {
  await readable(input, () =>
    withDecodedAudio(resolvePath(input), async (audio) => {
      const cascade = cascadeOf(await readEqualizer(file, audio.rateHz), audio.rateHz, audio.channels as 1 | 2, input);
      async function* blocks(): AsyncGenerator<SoundBlock> {
        for await (const block of audio.blocks) {
          const samples = block.map(asFloat64);
          cascade.process(samples[0], samples[1] ?? null, samples[0].length);
          yield { samples, frames: samples[0].length };
        }
      }
      async function* floatBlocks(floats: AsyncIterable<Float32Array>): AsyncGenerator<FloatBlock> {
        for await (const interleaved of floats) {
          if (!cascade.processFloats(interleaved, audio.channels as 1 | 2))
            throw new OrvidError('unreadable-audio', 'it holds samples that are not numbers');
          yield { interleaved };
        }
      }
      const ready = format === '32f' && audio.floats ? floatBlocks(audio.floats) : blocks();
      const { clippedSamples } = await wholeOrNothing(resolvePath(output), (temporary) =>
        writeWav(temporary, { channels: audio.channels, rateHz: audio.rateHz, format }, ready),
      );
      reportClipping(output, clippedSamples);
    }),
  );
}

export async function impulse(file: string, output: string, rateHz: number, length: number): Promise<void> {
  const samples = [new Float64Array(length)];
  samples[0][0] = 1;
  cascadeOf(await readEqualizer(file, rateHz), rateHz, 1, 'an impulse').process(samples[0], null, length);
  await wholeOrNothing(resolvePath(output), (temporary) =>
    writeWav(temporary, { channels: 1, rateHz, format: '32f' }, [{ samples, frames: length }]),
  );
}

export function reportClipping(output: string, clippedSamples: number): void {
  if (clippedSamples > 0) console.error(`${output}: ${clippingRemark(clippedSamples)}`);
}

/** Runs work on an audio file; what cannot be read is refused by name. */
export async function readable<T>(file: string, work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (thrown) {
    if (thrown instanceof OrvidError && thrown.code === 'unreadable-audio')
      throw new OrvidError('unreadable-audio', `${file}: ${thrown.message}.`);
    if ((thrown as NodeJS.ErrnoException).code === 'ENOENT')
      throw new OrvidError('invalid-input', `${file}: there is no such file or folder.`);
    throw thrown;
  }
}
