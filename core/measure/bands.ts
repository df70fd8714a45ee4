/** The axis of the long-term spectrum: 120 bands of 1/12 octave from 20 Hz to 20.48 kHz. */
export const SPECTRUM_LOW_HZ = 20;
export const BANDS_PER_OCTAVE = 12;
export const SPECTRUM_BANDS = 120;

/** Centre of band `i` (0 to 119) of the long-term spectrum, Hz: the geometric mean of its edges. */
export function spectrumCenterHz(i: number): number {
  return SPECTRUM_LOW_HZ * 2 ** ((i + 0.5) / BANDS_PER_OCTAVE);
}

export const SPECTRUM_CENTERS_HZ: readonly number[] = Array.from({ length: SPECTRUM_BANDS }, (_, i) =>
  spectrumCenterHz(i),
);

/** A band by its edges, Hz. */
export interface FrequencyBand {
  lowHz: number;
  highHz: number;
}

export const SPECTRUM_BAND_EDGES: readonly FrequencyBand[] = Array.from({ length: SPECTRUM_BANDS }, (_, i) => ({
  lowHz: SPECTRUM_LOW_HZ * 2 ** (i / BANDS_PER_OCTAVE),
  highHz: SPECTRUM_LOW_HZ * 2 ** ((i + 1) / BANDS_PER_OCTAVE),
}));

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
