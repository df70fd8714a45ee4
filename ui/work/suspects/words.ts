import { writeFrequency } from '@/core/formats';
import type { Suspect, SuspectKind } from '@/core/suspects';

/** How suspects are spoken of. */
export const KINDS: Record<SuspectKind, { name: string; about: string; foundBy: string }> = {
  resonance: {
    name: 'Resonance',
    about: 'stays put whatever is played',
    foundBy: 'it lifts this place in soft and loud, bright and dark moments alike',
  },
  modes: {
    name: 'Modes of the room',
    about: 'a family of resonances',
    foundBy:
      'places that lie as between walls, each lifted whatever is played; a drum’s own overtones are much like that',
  },
  hum: {
    name: 'Mains hum',
    about: 'with its harmonics',
    foundBy: 'lines at multiples of the mains’ frequency, whatever is played',
  },
  rumble: {
    name: 'Rumble',
    about: 'runs under the whole recording',
    foundBy: 'its level hardly moves while the recording does',
  },
  hiss: {
    name: 'Hiss',
    about: 'runs under the whole recording',
    foundBy: 'its level hardly moves while the recording does',
  },
  sibilance: {
    name: 'Sibilance',
    about: 'S, SH and the like take over',
    foundBy: 'short moments in which the highs are louder than all the rest, and than a voice usually has them',
  },
  pops: {
    name: 'Pops and thumps',
    about: 'burst out of the lows',
    foundBy: 'short bursts of lows in a recording that has hardly any',
  },
  whistle: {
    name: 'Whistle',
    about: 'it moves, or comes and goes',
    foundBy: 'a line over time that begins and ends without a stroke, and is no partial of a note',
  },
  clicks: {
    name: 'Clicks',
    about: 'no filter takes them away: mend the recording',
    foundBy: 'single samples, or a few, that do not follow from those before them',
  },
};

/** What has a place of its own, and is no range. */
const PLACED: readonly SuspectKind[] = ['resonance', 'hum', 'sibilance'];

const rangeText = (lowHz: number, highHz: number) =>
  `${writeFrequency(Number(lowHz.toPrecision(2)))} to ${writeFrequency(Number(highHz.toPrecision(2)))}`;

/** Where it lies, in words. */
export function placeOf({ kind, frequencyHz, lowHz, highHz, count, modes }: Suspect): string {
  if (kind === 'clicks') return `${count} of them`;
  if (modes) return modes.map(({ frequencyHz: hz }) => Math.round(hz)).join(', ') + ' Hz';
  return PLACED.includes(kind) ? writeFrequency(Number(frequencyHz.toPrecision(3))) : rangeText(lowHz, highHz);
}

export const sureText = (sureness: number) =>
  `${sureness > 0.8 ? 'quite sure' : sureness > 0.5 ? 'likely' : 'worth a listen'}, ${Math.round(100 * sureness)} %`;
