/**
 * Equal-loudness-level contours for pure tones, ISO 226:2023: exponent of loudness perception, level of the linear transfer function
 * and threshold of hearing at third-octaves (its table 1, written down from memory).
 */
const TABLE: readonly (readonly [hz: number, alpha: number, transferDb: number, thresholdDb: number])[] = [
  [20, 0.635, -31.5, 78.1],
  [25, 0.602, -27.2, 68.7],
  [31.5, 0.569, -23.1, 59.5],
  [40, 0.537, -19.3, 51.1],
  [50, 0.509, -16.1, 44.0],
  [63, 0.482, -13.1, 37.5],
  [80, 0.456, -10.4, 31.5],
  [100, 0.433, -8.2, 26.5],
  [125, 0.412, -6.3, 22.1],
  [160, 0.391, -4.6, 17.9],
  [200, 0.373, -3.2, 14.4],
  [250, 0.357, -2.1, 11.4],
  [315, 0.343, -1.2, 8.6],
  [400, 0.33, -0.5, 6.2],
  [500, 0.32, 0.0, 4.4],
  [630, 0.311, 0.4, 3.0],
  [800, 0.303, 0.5, 2.2],
  [1000, 0.3, 0.0, 2.4],
  [1250, 0.295, -2.7, 3.5],
  [1600, 0.292, -4.2, 1.7],
  [2000, 0.29, -1.2, -1.3],
  [2500, 0.29, 1.4, -4.2],
  [3150, 0.289, 2.3, -6.0],
  [4000, 0.289, 1.0, -5.4],
  [5000, 0.289, -2.3, -1.5],
  [6300, 0.293, -7.2, 6.0],
  [8000, 0.303, -11.2, 12.6],
  [10000, 0.323, -10.9, 13.9],
  [12500, 0.354, -3.5, 12.3],
];

/** The third-octaves of the standard, Hz. */
export const CONTOUR_HZ: readonly number[] = TABLE.map(([hz]) => hz);

/**
 * Sound pressure level of the tones that are as loud as one of 1 kHz at a level, at {@link CONTOUR_HZ}: formula (1) of ISO 226:2023.
 * @param phon loudness level, 20 to 90
 * @returns dB relative to 20 µPa
 */
export function equalLoudnessDb(phon: number): number[] {
  return TABLE.map(([, alpha, transferDb, thresholdDb]) => {
    const loudness = 4e-10 ** (0.3 - alpha) * (10 ** (0.03 * phon) - 10 ** 0.072);
    const threshold = 10 ** ((alpha * (thresholdDb + transferDb)) / 10);
    return (10 / alpha) * Math.log10(loudness + threshold) - transferDb;
  });
}

/**
 * How a sound's balance changes for the ear when it is played more quietly: what each third-octave loses beside 1 kHz.
 * @param fromPhon how loud it is mixed; @param toPhon how loud it is heard
 * @returns dB at {@link CONTOUR_HZ}, 0 at 1 kHz, mostly below 0 in the lows
 */
export function quieterBalanceDb(fromPhon: number, toPhon: number): number[] {
  const [from, to] = [equalLoudnessDb(fromPhon), equalLoudnessDb(toPhon)];
  return from.map((db, i) => db - to[i] - (fromPhon - toPhon));
}
