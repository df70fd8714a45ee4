/**
 * The axis of every spectrum: 120 bands of 1/12 octave from 19.95 Hz to 19.95 kHz. Edges `1000·G^(k/12)`, G = 10^0.3, k = −68 to 52;
 * middles at their geometric mean. Source: IEC 61260-1:2014, base 10.
 */
const BAND_RATIO = 10 ** (0.3 / 12);
const LOWEST_EDGE = -68;
export const SPECTRUM_BANDS = 120;

const edgeHz = (i: number) => 1000 * BAND_RATIO ** (LOWEST_EDGE + i);

export const SPECTRUM_CENTERS_HZ: readonly number[] = Array.from({ length: SPECTRUM_BANDS }, (_, i) => edgeHz(i + 0.5));

/** A band by its edges, Hz. */
export interface FrequencyBand {
  lowHz: number;
  highHz: number;
}

export const SPECTRUM_BAND_EDGES: readonly FrequencyBand[] = Array.from({ length: SPECTRUM_BANDS }, (_, i) => ({
  lowHz: edgeHz(i),
  highHz: edgeHz(i + 1),
}));

/** The band in which a frequency lies; the first or last one for what lies beyond. */
export function spectrumBandOf(frequencyHz: number): number {
  const band = Math.floor(Math.log(frequencyHz / 1000) / Math.log(BAND_RATIO) - LOWEST_EDGE + 1e-9);
  return Math.min(SPECTRUM_BANDS - 1, Math.max(0, band));
}

const NOMINAL_HZ = [
  20, 25, 31.5, 40, 50, 63, 80, 100, 125, 160, 200, 250, 315, 400, 500, 630, 800, 1000, 1250, 1600, 2000, 2500, 3150,
  4000, 5000, 6300, 8000, 10000, 12500, 16000, 20000,
] as const;

/** A third-octave band: its nominal name, exact middle and edges, Hz. */
export interface ThirdOctave extends FrequencyBand {
  nominalHz: number;
  exactHz: number;
}

/**
 * The third-octave bands from 20 Hz to 20 kHz. Exact mid-band frequencies `1000·G^(x/3)`, edges at `G^(±1/6)`, G = 10^0.3.
 * Source: IEC 61260-1:2014, base 10; nominal frequencies ISO 266.
 */
export const THIRD_OCTAVES: readonly ThirdOctave[] = NOMINAL_HZ.map((nominalHz, i) => {
  const exactHz = 1000 * 10 ** ((i - 17) / 10);
  return { nominalHz, exactHz, lowHz: exactHz * 10 ** -0.05, highHz: exactHz * 10 ** 0.05 };
});
