import { watchLive, type Watched } from '../../window/sound/live';
import { deskStore } from '../../window/desk/desk';
import { songOf } from '../../window/song/live-song';

/** Which spectra are drawn behind the bench's curve beside the chosen track's, and how. Not part of the song. */
interface Company extends Watched {
  /** What spectra are tilted by so that music looks level, dB per octave about 1 kHz. */
  tiltDb: number;
  toggle: (stripId: string) => void;
  set: (changes: Partial<Pick<Company, 'stage' | 'speed' | 'isHolding' | 'tiltDb'>>) => void;
  all: () => void;
  clear: () => void;
}

export const TILT_RANGE_DB = { min: 0, max: 6 } as const;

export const useCompany = deskStore<Company>((desk) => (set, get) => {
  const change = (changes: Partial<Company>) => {
    set(changes);
    watchLive(desk, get());
  };
  return {
    stripIds: [],
    stage: 'after',
    speed: 'fast',
    isHolding: false,
    tiltDb: 0,
    toggle: (stripId) => {
      const known = get().stripIds.filter((id) => songOf(desk).tracks.some((track) => track.id === id));
      const isIn = known.includes(stripId);
      change({ stripIds: isIn ? known.filter((id) => id !== stripId) : [...known, stripId] });
    },
    set: change,
    all: () => change({ stripIds: songOf(desk).tracks.map(({ id }) => id) }),
    clear: () => change({ stripIds: [] }),
  };
});
