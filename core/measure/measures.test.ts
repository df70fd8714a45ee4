import { getHeapStatistics, setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import fc from 'fast-check';
import { RecordingAnalyser } from './analysis';
import { SPECTRUM_BANDS } from './bands';
import { LevelMeter, toDb } from './levels';
import { kWeightingDb } from './k-weighting';
import { PeakMeter } from './meter';
import { PEAKS_BASE_FRAMES, PeaksBuilder, waveformStretch } from './peaks';
import { frequencyOfNote, noteOf, wavelengthMetres } from './pitch';
import { FLOOR_DB } from './spectrum';

test('levels of a sine: peak, RMS and a crest of 3.01 dB', () => {
  const meter = new LevelMeter(48000);
  meter.push([Float64Array.from({ length: 48000 }, (_, n) => 0.5 * Math.sin((2 * Math.PI * n) / 48))]);
  expect(meter.samplePeakDb).toBeCloseTo(-6.02, 2);
  expect(meter.rmsDb).toBeCloseTo(-9.03, 2);
  expect(meter.crestDb).toBeCloseTo(3.0103, 3);
});

test('silence reads the floor, and a crest of 0', () => {
  const meter = new LevelMeter(48000);
  meter.push([new Float64Array(10)]);
  expect([meter.samplePeakDb, meter.rmsDb, meter.crestDb]).toEqual([FLOOR_DB, FLOOR_DB, 0]);
  expect(toDb(0)).toBe(FLOOR_DB);
});

test('a meter rises at once and falls by 20 dB a second, however it is read', () => {
  const read = (block: number) => {
    const meter = new PeakMeter(48000);
    meter.push(1, block);
    for (let frames = 0; frames < 24000; frames += block) meter.push(0, block);
    return toDb(meter.value);
  };
  expect(read(128)).toBeCloseTo(-10, 0);
  expect(Math.abs(read(128) - read(480))).toBeLessThan(0.2);
});

// ITU-R BS.1770-4, table 1 and 2, and its figure 4: about +4 dB in the highs, −0.691 dB is the offset at 1 kHz.
test.each([
  [997, 0.691, 0.01],
  [10000, 4, 0.1],
  [100, -1.1, 0.2],
  [30, -9, 1],
])('K-weighting at %f Hz is %f dB', (hz, db, within) => expect(Math.abs(kWeightingDb(hz) - db)).toBeLessThan(within));

test('a waveform holds the extremes of every stretch, whatever the pieces that it came in', () => {
  const samples = Float64Array.from({ length: 3_000_001 }, (_, n) => Math.sin(n * n) * (n % 977) * 1e-3);
  const builder = new PeaksBuilder();
  for (let at = 0; at < samples.length; at += 10007) builder.push([samples.subarray(at, at + 10007)]);
  const { waveform } = builder.finish();
  const entries = Math.ceil(samples.length / PEAKS_BASE_FRAMES);
  expect(waveform).toHaveLength(2 * entries);
  for (const entry of [0, 1, 2047, 2048, 4096, entries - 1]) {
    const stretch = samples.subarray(entry * PEAKS_BASE_FRAMES, (entry + 1) * PEAKS_BASE_FRAMES);
    // In steps of 0.0002.
    expect(Math.abs(waveform[2 * entry] * 2e-4 - Math.min(...stretch))).toBeLessThan(1.01e-4);
    expect(Math.abs(waveform[2 * entry + 1] * 2e-4 - Math.max(...stretch))).toBeLessThan(1.01e-4);
  }
  expect(new PeaksBuilder().finish()).toEqual({ waveform: new Int16Array(0), overview: null });
});

setFlagsFromString('--expose-gc');
const collectGarbage = runInNewContext('gc') as () => void;

test('an hour of sound takes no room on the heap, which is small where files are read', () => {
  const seconds = 3600;
  const held = new Float64Array(PEAKS_BASE_FRAMES);
  const builder = new PeaksBuilder({ held, find: (_, found) => found.set([-0.5, 0.5]) });
  const second = [new Float32Array(48000)];
  const usedHeap = () => {
    collectGarbage();
    return getHeapStatistics().used_heap_size;
  };
  const before = usedHeap();
  for (let i = 0; i < seconds; i++) builder.push(second);
  const { waveform, overview } = builder.finish();
  const entries = Math.ceil((seconds * 48000) / PEAKS_BASE_FRAMES);
  expect(waveform).toHaveLength(2 * entries);
  expect(overview!.extremes[1]).toBe(0.5);
  // As numbers of the language they would be 11 MB, and as many again for each list of them.
  expect(usedHeap() - before).toBeLessThan(6e6);
});

// ISO 16: A4 is 440 Hz.
test.each([
  [440, 'A4', 0],
  [261.63, 'C4', 0],
  [285, 'C♯4', 48],
  [27.5, 'A0', 0],
  [16.35, 'C0', 0],
])('%f Hz is %s %i ct', (hz, name, cents) => expect(noteOf(hz)).toEqual({ name, cents }));

test('every note has its frequency, and every frequency its note', () => {
  for (let midi = 12; midi < 130; midi++) {
    const hz = 440 * 2 ** ((midi - 69) / 12);
    expect(frequencyOfNote(noteOf(hz).name)).toBeCloseTo(hz, 6);
  }
  expect(frequencyOfNote('H2')).toBeNull();
});

// 343 m/s at 20 °C.
test('30 Hz is 11.4 m long', () => expect(wavelengthMetres(30)).toBeCloseTo(11.43, 2));

test('a recording is measured the same in one piece and in many', () => {
  const left = Float64Array.from({ length: 100_000 }, (_, n) => 0.3 * Math.sin(n / 9) + 0.1 * Math.sin(n / 200));
  const right = left.map((value) => value * 0.5);
  const measure = (piece: number) => {
    const analyser = new RecordingAnalyser(48000, 2);
    for (let at = 0; at < left.length; at += piece)
      analyser.push([left.subarray(at, at + piece), right.subarray(at, at + piece)]);
    return analyser.finish();
  };
  const [many, whole] = [measure(777), measure(100_000)];
  expect(many.bandLevels).toEqual(whole.bandLevels);
  const { rmsDb, truePeakDb, integratedLufs, loudnessRangeLu, ...exact } = whole.analysis;
  expect(many.analysis).toMatchObject(exact);
  expect(many.analysis.rmsDb).toBeCloseTo(rmsDb, 9);
  expect(many.analysis.truePeakDb).toBeCloseTo(truePeakDb, 3);
  expect(many.analysis.integratedLufs).toBeCloseTo(integratedLufs!, 9);
  expect(many.analysis.loudnessRangeLu).toBeCloseTo(loudnessRangeLu, 9);
  expect(many.analysis.spectrumDb).toHaveLength(SPECTRUM_BANDS);
});

test('a stretch of a waveform covers what is asked for, in as many entries as are wanted, and loses no peak', () => {
  const frames = PEAKS_BASE_FRAMES * 3000 + 77;
  const samples = Float32Array.from({ length: frames }, (_, i) => 0.5 * Math.sin(i * 0.001) * Math.sin(i * 0.3));
  const builder = new PeaksBuilder();
  builder.push([samples]);
  const packed = builder.finish().waveform;
  fc.assert(
    fc.property(
      fc.nat(frames - 1),
      fc.integer({ min: 1, max: frames }),
      fc.integer({ min: 2, max: 500 }),
      (from, length, most) => {
        const to = from + length;
        const { framesPerEntry, firstFrame, extremes } = waveformStretch(packed, from, to, most);
        expect(extremes.length / 2).toBeLessThanOrEqual(most + 1);
        expect(firstFrame!).toBeLessThanOrEqual(from);
        expect(firstFrame! + (extremes.length / 2) * framesPerEntry).toBeGreaterThanOrEqual(Math.min(to, frames));
        const entry = Math.floor((from - firstFrame!) / framesPerEntry);
        const begin = firstFrame! + entry * framesPerEntry;
        const piece = samples.subarray(begin, begin + framesPerEntry);
        expect(Math.abs(extremes[2 * entry + 1] - piece.reduce((a, b) => Math.max(a, b)))).toBeLessThan(1e-3);
        expect(Math.abs(extremes[2 * entry] - piece.reduce((a, b) => Math.min(a, b)))).toBeLessThan(1e-3);
      },
    ),
    { numRuns: 40 },
  );
  expect(waveformStretch(new Int16Array(0), 0, 100, 10).extremes).toEqual([]);
  expect(waveformStretch(packed, frames + 5000, frames + 9000, 10).extremes).toEqual([]);
});

test('a waveform that is seen whole has at most 2000 entries, none of its peaks is lost, and three digits of each are right', () => {
  const builder = new PeaksBuilder();
  const frames = 256 * 9001;
  const samples = new Float32Array(frames).fill(0.001234);
  samples[1_234_567] = 0.98765;
  samples[frames - 1] = -0.5;
  builder.push([samples]);
  const overview = builder.finish().overview!;
  expect(overview.extremes.length / 2).toBeLessThanOrEqual(2000);
  expect(overview.extremes.length / 2).toBeGreaterThan(900);
  const at = Math.floor(1_234_567 / overview.framesPerEntry);
  expect(overview.extremes[2 * at + 1]).toBe(0.988);
  expect(overview.extremes.at(-2)).toBe(-0.5);
  expect(overview.extremes[0]).toBeCloseTo(0.0012, 4);
});
