import { compressorCurveDb, compressorThresholdDb, gateThresholdDb } from '.';
import { settingsOf } from './testing/run';

const around = (middle: number, count: number, spread = 3) =>
  Array.from({ length: count }, (_, i) => middle + spread * Math.sin(i * 1.7));

test('a gate’s threshold lies between the two humps of its levels, however many of each there are', () => {
  for (const loud of [20, 200, 900]) {
    const threshold = gateThresholdDb([...around(-48, 300), ...around(-12, loud), ...Array(500).fill(-200)])!;
    expect(threshold).toBeGreaterThan(-45);
    expect(threshold).toBeLessThan(-14);
  }
  expect(gateThresholdDb(around(-20, 100, 1))).toBeNull();
  expect(gateThresholdDb(Array(50).fill(-200))).toBeNull();
});

test('a compressor’s takes 3 dB of what is loud, whatever its ratio and knee', () => {
  const levels = Array.from({ length: 1000 }, (_, i) => -40 + (30 * i) / 999);
  const loud = -40 + 0.9 * 30;
  for (const ratio of [1.5, 3, 12])
    for (const kneeDb of [0, 6, 24]) {
      const thresholdDb = compressorThresholdDb(levels, { ratio, kneeDb, limits: false })!;
      const compressor = settingsOf('compressor', { ratio, kneeDb, thresholdDb });
      expect(Math.abs(loud - compressorCurveDb(loud, compressor) - 3)).toBeLessThan(0.1);
    }
  expect(compressorThresholdDb(levels, { ratio: 1, kneeDb: 0, limits: false })).toBeNull();
  expect(compressorThresholdDb([], { ratio: 4, kneeDb: 0, limits: false })).toBeNull();
});
