import { create } from 'zustand';
import { currentSong } from '../song';

/** Which spectra are drawn behind the bench's curve beside the chosen track's, and how. Not part of the song. */
interface Company {
  stripIds: readonly string[];
  /** Before their chains, or after. */
  stage: 'before' | 'after';
  /** How fast live spectra follow. */
  speed: 'fast' | 'slow';
  isHolding: boolean;
  /** What spectra are tilted by so that music looks level, dB per octave about 1 kHz. */
  tiltDb: number;
  toggle: (stripId: string) => void;
  set: (changes: Partial<Pick<Company, 'stage' | 'speed' | 'isHolding' | 'tiltDb'>>) => void;
  all: () => void;
  clear: () => void;
}

export const TILT_RANGE_DB = { min: 0, max: 6 } as const;

export const useCompany = create<Company>((set, get) => ({
  stripIds: [],
  stage: 'after',
  speed: 'fast',
  isHolding: false,
  tiltDb: 0,
  toggle: (stripId) => {
    const { stripIds } = get();
    const known = stripIds.filter((id) => currentSong().tracks.some((track) => track.id === id));
    set({
      stripIds: known.includes(stripId) ? known.filter((id) => id !== stripId) : [...known, stripId],
    });
  },
  set: (changes) => set(changes),
  all: () => set({ stripIds: currentSong().tracks.map(({ id }) => id) }),
  clear: () => set({ stripIds: [] }),
}));
