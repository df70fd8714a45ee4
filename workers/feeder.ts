import type { LoopFrames } from '@/core/engine';
import { Feeder } from '@/audio/feeder';
import { SharedState } from '@/audio/shared-state';
import { offer } from './offer';

/** Brings the samples to the audio thread, away from the page. Thin: the feeder is in audio/. */
let feeder: Feeder | null = null;

const feederWorker = {
  /** @param tell hears the progress, 0 to 1 @param tellError hears of what could not be had */
  open(
    memory: SharedArrayBuffer,
    rateHz: number,
    state: SharedArrayBuffer,
    tell: (progress: number) => void,
    tellError: (message: string) => void,
  ): void {
    const shared = new SharedState(state);
    feeder = new Feeder(memory, rateHz, () => shared.position, tell, tellError);
  },
  need: (...args: Parameters<Feeder['need']>) => feeder?.need(...args),
  setLoop: (loop: LoopFrames | null) => feeder?.setLoop(loop),
  seek: (frame: number) => feeder?.seek(frame),
  playing: () => feeder?.playing(),
  again: () => feeder?.again(),
  whyLate: () => feeder?.whyLate() ?? '',
};

export type FeederWorker = typeof feederWorker;

offer(feederWorker);
