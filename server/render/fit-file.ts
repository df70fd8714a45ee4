import { readFile } from 'node:fs/promises';
import { OrvidError } from '@/core/errors';
import { fitSections, matchImpulse } from '@/core/fit';
import { parseSections, writeEqualizerFile } from '@/core/formats';
import { withDecodedAudio } from '../audio/decode';

export interface FitTask {
  /** The file: sections as CSV, or an impulse response as sound. */
  file: string;
  /** What it is called. */
  name: string;
  /** Of sections: the rate that they were made for. */
  rateHz: number;
}

/** What a file became. */
export interface FittedFile {
  /** An equalizer file. */
  equalizer: string;
  bands: number;
  worstErrorDb: number;
  kind: 'sections' | 'impulse';
}

/** Longer than this is no impulse response of an equalizer, seconds. */
const LONGEST_SECONDS = 10;

async function impulseIn(file: string): Promise<{ samples: Float64Array; rateHz: number }> {
  return withDecodedAudio(file, async ({ blocks, rateHz }) => {
    const most = LONGEST_SECONDS * rateHz;
    const pieces: number[] = [];
    for await (const [left] of blocks) {
      if (pieces.length + left.length > most)
        throw new OrvidError(
          'invalid-input',
          `It is longer than ${LONGEST_SECONDS} s: this is a recording, and no impulse response.`,
          'Nothing was changed.',
        );
      for (let n = 0; n < left.length; n++) pieces.push(left[n]);
    }
    return { samples: Float64Array.from(pieces), rateHz };
  });
}

/** Makes ordinary bands of what a file says of an equalizer. @throws OrvidError `invalid-input`, `unreadable-audio` */
export async function fitFile({ file, name, rateHz }: FitTask): Promise<FittedFile> {
  const isText = /\.(csv|txt)$/i.test(name);
  if (isText) {
    const { bands, outputGainDb, worstErrorDb } = fitSections(
      parseSections(await readFile(file, 'utf8'), name),
      rateHz,
    );
    const equalizer = writeEqualizerFile({ phase: 'minimum', outputGainDb, bands });
    return { equalizer, bands: bands.length, worstErrorDb, kind: 'sections' };
  }
  const impulse = await impulseIn(file);
  const { bands, outputGainDb, worstErrorDb } = matchImpulse(impulse.samples, impulse.rateHz);
  const equalizer = writeEqualizerFile({
    phase: 'minimum',
    outputGainDb: Math.min(36, Math.max(-36, outputGainDb)),
    bands,
  });
  return { equalizer, bands: bands.length, worstErrorDb, kind: 'impulse' };
}
