/** Bands of a sixtieth of an octave from 40 Hz to 18 kHz, on which resonances are looked for. */
export const PER_OCTAVE = 60;
const LOWEST_HZ = 40;
export const BANDS = Math.floor(Math.log2(18000 / LOWEST_HZ) * PER_OCTAVE);

/** The middle of a band, Hz. @param band may lie between two */
export const bandHz = (band: number): number => LOWEST_HZ * 2 ** ((band + 0.5) / PER_OCTAVE);

/** Where a frequency lies, in bands: the opposite of {@link bandHz}. */
export const bandAt = (hz: number): number => Math.log2(hz / LOWEST_HZ) * PER_OCTAVE - 0.5;
