import { readFile } from 'node:fs/promises';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { Cascade, toStateVariable } from '@/core/engine';
import {
  designEqualizer,
  groupDelayMs,
  logSpacedHz,
  magnitudeDb,
  phaseDegrees,
  runningFrequencyHz,
  type Section,
} from '@/core/filters';
import { parseEqualizerFile, type RenderFormat } from '@/core/formats';
import { withDecodedAudio } from '@/server/audio/decode';
import { clippingRemark } from '@/server/render/naming';
import { writeWav, type FloatBlock, type SoundBlock } from '@/server/render/write-wav';
import { resolvePath, wholeOrNothing } from './output';

/** The sections that an equalizer file runs at a rate; a frequency that had to be moved is reported. */
async function sectionsOf(file: string, rateHz: number): Promise<Section[]> {
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
  return designEqualizer(equalizer, rateHz);
}

export async function response(file: string, rateHz: number, frequenciesHz: ArrayLike<number>): Promise<void> {
  const beyond = Array.from(frequenciesHz).find((hz) => hz > rateHz / 2);
  if (beyond !== undefined)
    throw new OrvidError('invalid-input', `--freqs: ${beyond} Hz lies above half of the rate, ${rateHz / 2} Hz.`);
  const sections = await sectionsOf(file, rateHz);
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

export async function sections(file: string, rateHz: number): Promise<void> {
  const lines = (await sectionsOf(file, rateHz)).map(({ b0, b1, b2, a1, a2 }) => [b0, b1, b2, 1, a1, a2].join(','));
  console.log(['b0,b1,b2,a0,a1,a2', ...lines].join('\n'));
}

/** A cascade that runs sections. */
function cascadeOf(list: readonly Section[], rateHz: number): Cascade {
  const cascade = new Cascade(rateHz);
  cascade.setTarget(
    list.map((section, i) => ({ key: String(i), channel: 'stereo' as const, ...toStateVariable(section) })),
    true,
  );
  return cascade;
}

const asFloat64 = (samples: ArrayLike<number>) =>
  samples instanceof Float64Array ? samples : Float64Array.from(samples);

export async function apply(file: string, input: string, output: string, format: RenderFormat): Promise<void> {
  await readable(input, () =>
    withDecodedAudio(resolvePath(input), async (audio) => {
      const cascade = cascadeOf(await sectionsOf(file, audio.rateHz), audio.rateHz);
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
  cascadeOf(await sectionsOf(file, rateHz), rateHz).process(samples[0], null, length);
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
