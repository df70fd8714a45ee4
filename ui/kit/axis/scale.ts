import { scaleLog } from 'd3-scale';
import { SPECTRUM_CENTERS_HZ } from '@/core/measure';

/** The one frequency axis of the screen: 20 Hz to 20 kHz, logarithmic. */
export const AXIS_LOW_HZ = 20;
export const AXIS_HIGH_HZ = 20000;

export interface FrequencyScale {
  /** Pixels from the left edge of the field. */
  x: (hz: number) => number;
  hz: (x: number) => number;
  width: number;
  /** Places of the 120 bands of a spectrum, pixels. */
  bandX: readonly number[];
}

/** @param width of the field in pixels */
export function frequencyScale(width: number): FrequencyScale {
  const scale = scaleLog().domain([AXIS_LOW_HZ, AXIS_HIGH_HZ]).range([0, width]);
  return { x: (hz) => scale(hz), hz: (x) => scale.invert(x), width, bandX: SPECTRUM_CENTERS_HZ.map((hz) => scale(hz)) };
}

/** Where the grid has lines, and how they are labelled. */
export const AXIS_TICKS: readonly { hz: number; label: string }[] = [
  { hz: 20, label: '20' },
  { hz: 30, label: '30' },
  { hz: 50, label: '50' },
  { hz: 70, label: '70' },
  { hz: 100, label: '100' },
  { hz: 200, label: '200' },
  { hz: 300, label: '300' },
  { hz: 500, label: '500' },
  { hz: 700, label: '700' },
  { hz: 1000, label: '1k' },
  { hz: 2000, label: '2k' },
  { hz: 3000, label: '3k' },
  { hz: 5000, label: '5k' },
  { hz: 7000, label: '7k' },
  { hz: 10000, label: '10k' },
  { hz: 20000, label: '20k' },
];

/** The same axis in notes: every C of equal temperament. Source: ISO 16, A4 = 440 Hz. */
export const NOTE_TICKS: readonly { hz: number; label: string }[] = Array.from({ length: 10 }, (_, octave) => ({
  hz: 440 * 2 ** (octave - 4 - 9 / 12),
  label: `C${octave}`,
})).slice(1);

/** The waters of the chart: names of the regions and where they begin. Common practice. */
export const REGIONS: readonly { name: string; fromHz: number }[] = [
  { name: 'sub', fromHz: 20 },
  { name: 'bass', fromHz: 60 },
  { name: 'low mids', fromHz: 150 },
  { name: 'mids', fromHz: 500 },
  { name: 'presence', fromHz: 2000 },
  { name: 'air', fromHz: 6000 },
];
