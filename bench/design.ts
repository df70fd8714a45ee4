import { performance } from 'node:perf_hooks';
import { designBand, logSpacedHz } from '@/core/filters';
import { newBandSettings, type BandSettings } from '@/core/song';
import { median, percentile, table } from './support';

/** What it costs to design a band anew, as at each move of a drag: warm, at 48 kHz, over the places where bands are put. */
const RATE = 48000;
const ROUNDS = 20;

const places = Array.from(logSpacedHz(30, 16000, 60));
const kinds: [string, (hz: number) => Partial<BandSettings> & { type: BandSettings['type'] }][] = [
  ['bell, 4 dB', () => ({ type: 'bell', gainDb: 4, q: 1.4 })],
  ['bell, 12 dB', () => ({ type: 'bell', gainDb: -12, q: 2 })],
  ['low shelf, 6 dB', () => ({ type: 'low-shelf', gainDb: 6 })],
  ['high shelf, 6 dB', () => ({ type: 'high-shelf', gainDb: -6 })],
  ['notch', () => ({ type: 'notch', q: 8 })],
  ['tilt, 6 dB', () => ({ type: 'tilt', gainDb: 6 })],
  ['high-pass, 12 dB per octave', () => ({ type: 'high-pass', order: 2 })],
  ['high-pass, 24 dB per octave', () => ({ type: 'high-pass', order: 4 })],
  ['low-pass, 24 dB per octave', () => ({ type: 'low-pass', order: 4 })],
  ['low-pass, elliptic, order 6', () => ({ type: 'low-pass', family: 'elliptic', order: 6 })],
];
const rows = kinds.map(([name, of]) => {
  const times: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    for (const hz of places) {
      const settings = of(hz);
      const band = { ...newBandSettings(settings.type, hz), ...settings };
      const started = performance.now();
      designBand(band, RATE);
      if (round >= ROUNDS / 2) times.push(performance.now() - started);
    }
  }
  return [name, median(times).toFixed(3), percentile(times, 0.95).toFixed(3)];
});
console.log(`Design of one band, ms, ${places.length} places from 30 Hz to 16 kHz, warm, at ${RATE / 1000} kHz.\n`);
console.log(table([['band', 'median', '95 % below'], ...rows]));
