import { LevelMeter, LongTermSpectrum, THIRD_OCTAVES } from '@/core/measure';
import { withDecodedAudio } from '@/server/audio/decode';
import { readable } from './equalizer-commands';
import { resolvePath } from './output';

interface FileAnalysis {
  file: string;
  format: string;
  rateHz: number;
  channels: number;
  lengthSeconds: number;
  samplePeakDbfs: number;
  rmsDbfs: number;
  crestDb: number;
  /** Long-term level of each third-octave band, dB relative to a full-scale sine; bands above half the rate are left out. */
  thirdOctavesDb: { nominalHz: number; levelDb: number }[];
}

function analyseFile(file: string): Promise<FileAnalysis> {
  return readable(file, () =>
    withDecodedAudio(resolvePath(file), async (audio) => {
      const levels = new LevelMeter();
      const spectrum = new LongTermSpectrum(audio.rateHz, audio.channels);
      let frames = 0;
      for await (const block of audio.blocks) {
        levels.push(block);
        spectrum.push(block);
        frames += block[0].length;
      }
      const bands = THIRD_OCTAVES.filter((band) => band.highHz < audio.rateHz / 2);
      const thirds = spectrum.levelsDb(bands);
      return {
        file,
        format: audio.format,
        rateHz: audio.rateHz,
        channels: audio.channels,
        lengthSeconds: frames / audio.rateHz,
        samplePeakDbfs: levels.samplePeakDb,
        rmsDbfs: levels.rmsDb,
        crestDb: levels.crestDb,
        thirdOctavesDb: bands.map(({ nominalHz }, i) => ({ nominalHz, levelDb: thirds[i] })),
      };
    }),
  );
}

const rounded = (value: number) => value.toFixed(2);

function asText(one: FileAnalysis): string {
  return [
    `${one.file}: ${one.format}, ${one.rateHz} Hz, ${one.channels === 1 ? 'mono' : 'stereo'}, ${rounded(one.lengthSeconds)} s`,
    `  sample peak ${rounded(one.samplePeakDbfs)} dBFS, RMS ${rounded(one.rmsDbfs)} dBFS, crest ${rounded(one.crestDb)} dB`,
    ...one.thirdOctavesDb.map(
      ({ nominalHz, levelDb }) => `  ${String(nominalHz).padStart(7)} Hz ${rounded(levelDb).padStart(8)} dB`,
    ),
  ].join('\n');
}

export async function analyse(files: readonly string[], asJson: boolean): Promise<void> {
  const results: FileAnalysis[] = [];
  for (const file of files) results.push(await analyseFile(file));
  console.log(asJson ? JSON.stringify({ files: results }, null, 2) : results.map(asText).join('\n'));
}
