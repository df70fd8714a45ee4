import type { AudioSession } from '@/audio/session';
import type { Desk } from '../desk/desk';
import { songOf } from '../song/live-song';

/** The audio of a desk; null before it is opened and after it has ended. */
const makeSound = (): { session: AudioSession | null } => ({ session: null });
export const soundOf = (desk: Desk) => desk.part(makeSound);

/** What the audio thread tells, for what is drawn while it plays. */
export const audioState = (desk: Desk) => soundOf(desk).session?.state ?? null;

/** Seconds at which the song stands: where one hears it. */
export function positionSeconds(desk: Desk): number {
  return (soundOf(desk).session?.heardFrame() ?? 0) / songOf(desk).rateHz;
}

/** Seconds of the song that come out of the audio thread next: from there on it is heard what is changed now. */
export function nextSeconds(desk: Desk): number {
  return (audioState(desk)?.position ?? 0) / songOf(desk).rateHz;
}
