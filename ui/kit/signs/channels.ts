import { BAND_CHANNELS, type BandChannel } from '@/core/song';

/** What a band acts on, by name and by the letter that stands beside its own. */
const NAMES: Record<BandChannel, { name: string; letter: string }> = {
  stereo: { name: 'Both sides', letter: '' },
  mid: { name: 'Mid (what the sides share)', letter: 'M' },
  side: { name: 'Side (what differs)', letter: 'S' },
  left: { name: 'Left', letter: 'L' },
  right: { name: 'Right', letter: 'R' },
};

export const CHANNEL_NAMES: readonly { id: BandChannel; name: string }[] = BAND_CHANNELS.map((id) => ({
  id,
  name: NAMES[id].name,
}));
export const channelLetter = (channel: BandChannel) => NAMES[channel].letter;

/** Why a band on one channel does nothing where what goes in is mono. */
export const MONO_REASON =
  'What goes in is mono: it has no sides, and no mid or side to act on. Behind a reverb or an echo it has.';
