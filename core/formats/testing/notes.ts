import fc from 'fast-check';
import { readFileNotes } from '../file-notes';

export const notesIn = (bytes: Uint8Array) =>
  readFileNotes((from, length) => Promise.resolve(bytes.slice(from, from + length)), bytes.length);

/** Cut off anywhere, and with a byte written over, a file still gives markers with names at times, or none. */
export const expectNotesOfAnyDamage = (whole: Uint8Array, seed: number) =>
  fc.assert(
    fc.asyncProperty(fc.nat(whole.length), fc.nat(whole.length - 1), fc.nat(255), async (length, at, value) => {
      const changed = whole.slice();
      changed[at] = value;
      const { markers } = await notesIn(changed.slice(0, length));
      expect(markers.every(({ name, seconds }) => name.length > 0 && seconds >= 0)).toBe(true);
    }),
    { seed },
  );
