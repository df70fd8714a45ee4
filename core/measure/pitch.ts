const NAMES = ['C', 'C♯', 'D', 'D♯', 'E', 'F', 'F♯', 'G', 'G♯', 'A', 'A♯', 'B'];
const A4_HZ = 440;
export const SPEED_OF_SOUND = 343; // m/s in air of 20 °C

/**
 * The nearest note of equal temperament. Source: ISO 16, A4 = 440 Hz.
 * @returns its name with octave, and how far the frequency lies from it in cents, −50 to 50
 */
export function noteOf(frequencyHz: number): { name: string; cents: number } {
  const midi = 69 + 12 * Math.log2(frequencyHz / A4_HZ);
  const nearest = Math.round(midi);
  return {
    name: `${NAMES[((nearest % 12) + 12) % 12]}${Math.floor(nearest / 12) - 1}`,
    cents: Math.round((midi - nearest) * 100) + 0,
  };
}

/**
 * The frequency of a note by name, with cents beside it if wanted: `A4`, `c#3`, `Db2`, `F♯5`, `A4+20`, `C♯4 −12 ct`.
 * @returns Hz; null for what is not a note
 */
export function frequencyOfNote(text: string): number | null {
  const match = /^([a-g])([#♯b♭]?)(-?\d{1,2})(?:\s*([+−–-])\s*(\d{1,4})\s*(?:ct|cents?)?)?$/i.exec(text.trim());
  if (!match) return null;
  const step = { c: 0, d: 2, e: 4, f: 5, g: 7, a: 9, b: 11 }[match[1].toLowerCase()]!;
  const accidental = /[#♯]/.test(match[2]) ? 1 : match[2] ? -1 : 0;
  const cents = match[5] === undefined ? 0 : Number(match[5]) * (match[4] === '+' ? 1 : -1);
  return A4_HZ * 2 ** ((step + accidental + cents / 100 + 12 * (Number(match[3]) + 1) - 69) / 12);
}

/** Length of the sound wave in air of 20 °C, metres. */
export function wavelengthMetres(frequencyHz: number): number {
  return SPEED_OF_SOUND / frequencyHz;
}
