import { readFile, writeFile } from 'node:fs/promises';
import path from 'node:path';
import { OrvidError } from '@/core/errors';
import { fitSections } from '@/core/fit';
import {
  canAct,
  Cascade,
  Convolver,
  designKernel,
  equalizerSections,
  FloatCascade,
  type DesignedKernel,
} from '@/core/engine';
import {
  designEqualizer,
  groupDelayMs,
  impulseResponse,
  logSpacedHz,
  magnitudeDb,
  phaseDegrees,
  isBeyond,
} from '@/core/filters';
import {
  parseEqualizerFile,
  parseSections,
  writeEqualizerFile,
  writeNumber,
  writeSections,
  type FileEqualizer,
  type RenderFormat,
} from '@/core/formats';
import type { BandChannel } from '@/core/song';
import { withDecodedAudio, type FloatPiece } from '@/server/audio/decode';
import { clippingRemark } from '@/server/render/clipping';
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
    if (isBeyond(band.frequencyHz, rateHz))
      console.error(
        `${name}: bands[${i}]: ${band.frequencyHz} Hz is too near to half of ${rateHz} Hz; what it does up to 20 kHz is followed.`,
      );
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
  const equalizer = await readEqualizer(file, rateHz);
  const sections = designEqualizer(equalizer, rateHz, channel);
  const isLinear = equalizer.phase === 'linear';
  if (isLinear) designLate(equalizer, rateHz, 2);
  const lines = Array.from(frequenciesHz, (hz) =>
    [
      hz,
      magnitudeDb(sections, hz, rateHz),
      isLinear ? 0 : phaseDegrees(sections, hz, rateHz),
      isLinear ? 0 : groupDelayMs(sections, hz, rateHz),
    ].join(','),
  );
  console.log(['frequency_hz,magnitude_db,phase_deg,group_delay_ms', ...lines].join('\n'));
}

/** `count` frequencies from 20 Hz to 20 kHz, or to half the rate where that is lower. */
export const pointsUpTo20k = (count: number, rateHz: number) => logSpacedHz(20, Math.min(20000, rateHz / 2), count);

export async function sections(file: string, rateHz: number, channel: BandChannel): Promise<void> {
  const equalizer = await readEqualizer(file, rateHz);
  if (equalizer.phase === 'linear')
    throw new OrvidError(
      'invalid-input',
      `${path.basename(file)}: phase: an equalizer of linear phase runs as a convolution and has no sections; its response is written by “impulse”.`,
    );
  console.log(writeSections(designEqualizer(equalizer, rateHz, channel)));
}

/** The kernel of an equalizer of linear phase; what it costs, and where it cannot keep the curve, is told. */
function designLate(equalizer: FileEqualizer, rateHz: number, channels: 1 | 2): DesignedKernel {
  const designed = designKernel({ key: '', kernelId: '', equalizer, rateHz, channels });
  const milliseconds = (1000 * designed.kernel.latencyFrames) / rateHz;
  console.error(`Linear phase: ${milliseconds.toFixed(0)} ms of latency, taken out again.`);
  if (designed.worstErrorDb > 0.1)
    console.error(
      `A band is too narrow for so short a response: the level strays by up to ${designed.worstErrorDb.toFixed(1)} dB near it.`,
    );
  return designed;
}

/** @throws OrvidError `invalid-input` for a band that acts on one of two channels that are not there */
function refuseIdleBands({ bands }: FileEqualizer, channels: 1 | 2, input: string): void {
  const idle = bands.findIndex((band) => !canAct(band, channels));
  if (idle < 0) return;
  throw new OrvidError(
    'invalid-input',
    `bands[${idle}].channel: “${bands[idle].channel}” needs two channels, and ${input} is mono. Nothing was written.`,
  );
}

type Planar = Float64Array[];

/** Blocks through an equalizer of linear phase, its latency taken out. */
async function* convolved(
  blocks: AsyncIterable<ArrayLike<number>[]>,
  { kernel }: DesignedKernel,
  rateHz: number,
): AsyncGenerator<SoundBlock> {
  const convolver = new Convolver(kernel, rateHz);
  let late = kernel.latencyFrames;
  let channels = 1;
  const run = (samples: Planar): SoundBlock => {
    const length = samples[0].length;
    convolver.process(samples[0], samples[1] ?? null, length);
    const early = Math.min(late, length);
    late -= early;
    return { samples: samples.map((side) => side.subarray(early)), frames: length - early };
  };
  for await (const block of blocks) {
    channels = block.length;
    yield run(block.map((side) => Float64Array.from(side)));
  }
  yield run(Array.from({ length: channels }, () => new Float64Array(kernel.latencyFrames)));
}

const asFloat64 = (samples: ArrayLike<number>) =>
  samples instanceof Float64Array ? samples : Float64Array.from(samples);

export async function apply(file: string, input: string, output: string, format: RenderFormat): Promise<void> {
  await readable(input, () =>
    withDecodedAudio(resolvePath(input), async (audio) => {
      const channels = audio.channels as 1 | 2;
      const equalizer = await readEqualizer(file, audio.rateHz);
      refuseIdleBands(equalizer, channels, input);
      const sections = equalizerSections(equalizer, audio.rateHz, channels);
      async function* blocks(): AsyncGenerator<SoundBlock> {
        const cascade = new Cascade(sections, audio.rateHz);
        for await (const block of audio.blocks) {
          const samples = block.map(asFloat64);
          cascade.process(samples[0], samples[1] ?? null, samples[0].length);
          yield { samples, frames: samples[0].length };
        }
      }
      async function* floatBlocks(floats: AsyncIterable<FloatPiece>): AsyncGenerator<FloatBlock> {
        const cascade = new FloatCascade(sections, audio.rateHz, channels);
        for await (const piece of floats) {
          if (!cascade.process(piece.interleaved))
            throw new OrvidError('unreadable-audio', 'it holds samples that are no numbers, or too large for 32 bit');
          yield piece;
        }
      }
      const ready = () => {
        if (equalizer.phase === 'linear')
          return convolved(audio.blocks, designLate(equalizer, audio.rateHz, channels), audio.rateHz);
        return format === '32f' && audio.floats ? floatBlocks(audio.floats) : blocks();
      };
      const { clippedSamples } = await wholeOrNothing(resolvePath(output), (temporary) =>
        writeWav(temporary, { channels: audio.channels, rateHz: audio.rateHz, format }, ready()),
      );
      reportClipping(output, clippedSamples);
    }),
  );
}

export async function impulse(file: string, output: string, rateHz: number, length: number): Promise<void> {
  const equalizer = await readEqualizer(file, rateHz);
  refuseIdleBands(equalizer, 1, 'an impulse');
  const samples = [responseOf(equalizer, rateHz, length)];
  await wholeOrNothing(resolvePath(output), (temporary) =>
    writeWav(temporary, { channels: 1, rateHz, format: '32f' }, [{ samples, frames: length }]),
  );
}

function responseOf(equalizer: FileEqualizer, rateHz: number, length: number): Float64Array {
  try {
    return impulseResponse(equalizer, rateHz, length);
  } catch (thrown) {
    throw thrown instanceof OrvidError
      ? new OrvidError(thrown.code, `--length: ${thrown.message} Nothing was written.`)
      : thrown;
  }
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

/** An equalizer of ordinary bands that does what sections in a CSV file do; how far it strays is told. */
export async function fit(file: string, output: string | undefined, rateHz: number): Promise<void> {
  const text = await readFile(resolvePath(file), 'utf8').catch(() => {
    throw new OrvidError('invalid-input', `${file}: the file cannot be read.`);
  });
  const { bands, outputGainDb, worstErrorDb } = fitSections(parseSections(text, path.basename(file)), rateHz);
  console.error(`${bands.length} bands, within ${writeNumber(worstErrorDb, 3)} dB.`);
  const json = writeEqualizerFile({ phase: 'minimum', outputGainDb, bands });
  if (output === undefined) console.log(json);
  else await wholeOrNothing(resolvePath(output), (target) => writeFile(target, `${json}\n`, { flag: 'wx' }));
}
