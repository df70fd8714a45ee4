import {
  BandLevelsAnalyser,
  LongTermSpectrum,
  SoundMeter,
  SPECTRUM_BANDS,
  THIRD_OCTAVES,
  wholeRows,
  type SoundFigures,
} from '@/core/measure';
import { MixMeasure, proposeClaim, type ClaimingTrack, type Overlap } from '@/core/mix';
import { suspectQ, type Suspect } from '@/core/suspects';
import { SuspectFinder } from '@/core/suspects/finder';
import { isSureAlone } from '@/core/suspects/resonance';
import { withDecodedAudio } from '@/server/audio/decode';
import { readable } from './equalizer-commands';
import { resolvePath } from './output';

interface FoundResonance {
  frequencyHz: number;
  prominenceDb: number;
  q: number;
  timeShare: number;
  sureness: number;
}

interface FileAnalysis extends SoundFigures {
  file: string;
  format: string;
  rateHz: number;
  channels: number;
  lengthSeconds: number;
  /** Long-term level of each third-octave band, dB relative to a full-scale sine; bands above half the rate are left out. */
  thirdOctaves: { nominalHz: number; levelDb: number }[];
  /** Mains hum; null where there is none. */
  hum: { frequencyHz: number; harmonics: number; prominenceDb: number } | null;
  /** Share of the power that lies below 40 Hz, 0 to 1. */
  rumbleShare: number;
  resonances: FoundResonance[];
  /** Everything else that may be wrong. */
  suspects: Suspect[];
}

/** What is needed to hold one file against another. */
interface Measured {
  analysis: FileAnalysis;
  levels: Uint8Array;
}

const RUMBLE_HZ = { lowHz: 1, highHz: 40 };
const ALL_HZ = { lowHz: 1, highHz: 20000 };
/** What silence reads, and a little more. */
const SILENT_POWER = 1e-14;

function analyseFile(file: string): Promise<Measured> {
  return readable(file, () =>
    withDecodedAudio(resolvePath(file), async (audio) => {
      const sound = new SoundMeter(audio.rateHz, audio.channels);
      const spectrum = new LongTermSpectrum(audio.rateHz, audio.channels);
      const bandLevels = new BandLevelsAnalyser(audio.rateHz, audio.channels);
      const finder = new SuspectFinder(audio.rateHz, 0);
      let frames = 0;
      for await (const block of audio.blocks) {
        for (const measure of [sound, spectrum, bandLevels, finder]) measure.push(block);
        frames += block[0].length;
      }
      const bands = THIRD_OCTAVES.filter((band) => band.highHz < audio.rateHz / 2);
      const thirds = spectrum.levelsDb(bands);
      const [low, all] = spectrum.levelsDb([RUMBLE_HZ, ALL_HZ]).map((db) => 10 ** (db / 10));
      const suspects = finder.finish();
      const hum = suspects.find(({ kind }) => kind === 'hum');
      const analysis: FileAnalysis = {
        file,
        format: audio.format,
        rateHz: audio.rateHz,
        channels: audio.channels,
        lengthSeconds: frames / audio.rateHz,
        ...sound.finish(),
        thirdOctaves: bands.map(({ nominalHz }, i) => ({ nominalHz, levelDb: thirds[i] })),
        hum: hum
          ? { frequencyHz: hum.frequencyHz, harmonics: hum.harmonics ?? 1, prominenceDb: hum.prominenceDb }
          : null,
        rumbleShare: all > SILENT_POWER ? Math.min(1, low / all) : 0,
        resonances: resonancesAmong(suspects),
        suspects: suspects.filter(({ kind }) => kind !== 'resonance' && kind !== 'hum'),
      };
      return { analysis, levels: bandLevels.finish() };
    }),
  );
}

/** Resonances, and those modes of a room that would be named without their family, the surest first. */
export function resonancesAmong(suspects: readonly Suspect[]): FoundResonance[] {
  const single = suspects
    .filter(({ kind }) => kind === 'resonance')
    .map((suspect) => ({
      frequencyHz: suspect.frequencyHz,
      prominenceDb: suspect.prominenceDb,
      q: suspectQ(suspect),
      timeShare: suspect.timeShare,
      sureness: suspect.sureness,
    }));
  const modes = suspects
    .flatMap(({ modes = [] }) => modes.filter(isSureAlone))
    .map(({ frequencyHz, gainDb, q, sureness }) => ({ frequencyHz, prominenceDb: gainDb, q, timeShare: 1, sureness }));
  return [...single, ...modes].sort((a, b) => b.sureness - a.sureness);
}

interface Together {
  overlaps: (Omit<Overlap, 'quieterId' | 'louderId'> & { quieter: string; louder: string })[];
  clearances: { file: string; lowHz: number; highHz: number; clearanceDb: number; onTop: number }[];
}

/** Files held against each other as they are, from their beginnings; each one's claim is the one that would be proposed for it. */
function together(measured: readonly Measured[]): Together {
  const levels = Object.fromEntries(measured.map((recording, i) => [String(i), [wholeRows(recording.levels)]]));
  const tracks: ClaimingTrack[] = measured.map(({ analysis }, i) => ({
    id: String(i),
    audioId: String(i),
    channels: analysis.channels === 2 ? 2 : 1,
    gains: new Float64Array(SPECTRUM_BANDS).fill(1),
    claims: [],
  }));
  const steps = Math.max(1, ...measured.map((recording) => recording.levels.length / SPECTRUM_BANDS));
  const mix = new MixMeasure();
  const { overlaps } = mix.update(tracks, levels, { from: 0, to: steps });
  const nameOf = (id: string) => measured[Number(id)].analysis.file;
  return {
    overlaps: overlaps.map(({ quieterId, louderId, ...rest }) => ({
      quieter: nameOf(quieterId),
      louder: nameOf(louderId),
      ...rest,
    })),
    clearances: tracks.flatMap(({ id }) => {
      const { own, all, blocks } = mix.fields(id)!;
      const claim = proposeClaim(nameOf(id), own, all, blocks);
      const found = claim && mix.clearanceIn(id, [claim]);
      return found ? [{ file: nameOf(id), ...claim, clearanceDb: found.clearanceDb, onTop: found.onTop }] : [];
    }),
  };
}

const rounded = (value: number) => value.toFixed(2);
const orSilent = (lufs: number | null) => (lufs === null ? 'silent' : `${rounded(lufs)} LUFS`);

function asText(analysis: FileAnalysis): string {
  return [
    `${analysis.file}: ${analysis.format}, ${analysis.rateHz} Hz, ${analysis.channels === 1 ? 'mono' : 'stereo'}, ${rounded(analysis.lengthSeconds)} s`,
    `  integrated ${orSilent(analysis.integratedLufs)}, range ${rounded(analysis.loudnessRangeLu)} LU, true peak ${rounded(analysis.truePeakDbtp)} dBTP`,
    `  sample peak ${rounded(analysis.samplePeakDbfs)} dBFS, RMS ${rounded(analysis.rmsDbfs)} dBFS, crest ${rounded(analysis.crestDb)} dB`,
    `  below 40 Hz ${rounded(100 * analysis.rumbleShare)} % of the power`,
    ...(analysis.hum ? [`  hum at ${rounded(analysis.hum.frequencyHz)} Hz, ${analysis.hum.harmonics} harmonics`] : []),
    ...analysis.resonances.map(
      ({ frequencyHz, prominenceDb, q }) =>
        `  resonance at ${rounded(frequencyHz)} Hz, ${rounded(prominenceDb)} dB, Q ${rounded(q)}`,
    ),
    ...analysis.suspects.map(({ kind, lowHz, highHz, modes }) =>
      modes
        ? `  modes of the room at ${modes.map(({ frequencyHz }) => rounded(frequencyHz)).join(', ')} Hz`
        : `  ${kind}, ${rounded(lowHz)} to ${rounded(highHz)} Hz`,
    ),
    ...analysis.thirdOctaves.map(
      ({ nominalHz, levelDb }) => `  ${String(nominalHz).padStart(7)} Hz ${rounded(levelDb).padStart(8)} dB`,
    ),
  ].join('\n');
}

function togetherAsText({ overlaps, clearances }: Together): string {
  return [
    'Overlaps:',
    ...overlaps.map(
      ({ quieter, louder, lowHz, highHz, lostShare }) =>
        `  ${quieter} under ${louder}, ${rounded(lowHz)} to ${rounded(highHz)} Hz: loses ${Math.round(100 * lostShare)} %`,
    ),
    'Clearances:',
    ...clearances.map(
      ({ file, lowHz, highHz, clearanceDb, onTop }) =>
        `  ${file}, ${rounded(lowHz)} to ${rounded(highHz)} Hz: ${rounded(clearanceDb)} dB, on top ${Math.round(100 * onTop)} %`,
    ),
  ].join('\n');
}

export async function analyse(files: readonly string[], asJson: boolean): Promise<void> {
  const measured: Measured[] = [];
  for (const file of files) measured.push(await analyseFile(file));
  const results = measured.map(({ analysis }) => analysis);
  const mix = measured.length > 1 ? together(measured) : null;
  if (asJson) console.log(JSON.stringify({ files: results, ...mix }, null, 2));
  else console.log([...results.map(asText), ...(mix ? [togetherAsText(mix)] : [])].join('\n'));
}
