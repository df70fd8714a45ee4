import type { ChainProcessor } from '../song';
import { ClipperRunner } from './clipper';
import { CompressorRunner } from './compressor';
import { DuckerRunner } from './ducker';
import { EchoRunner } from './echo';
import { GateRunner } from './gate';
import { GivingBandRunner, type GivingBand } from './giving-band';
import { framesOf } from './levels';
import { limiterLatency, LimiterRunner } from './limiter';
import { Oversampling } from './oversampling';
import { ReverbRunner } from './reverb';
import type { ProcessorRunner } from './runner';

/** What stands in a chain and is no equalizer. */
export type ProcessorSettings = Exclude<ChainProcessor, { kind: 'equalizer' }>;

/** What a runner runs: a processor of a chain, or a band of an equalizer that gives way. */
export type RunSettings = ProcessorSettings | GivingBand;

/** How late a processor is, on or off, frames. */
export function latencyFramesOf(settings: RunSettings, rateHz: number): number {
  switch (settings.kind) {
    case 'gate':
      return framesOf(settings.lookAheadMs, rateHz);
    case 'limiter':
      return limiterLatency(settings, rateHz);
    case 'clipper':
      return Oversampling.latencyFrames;
    default:
      return 0;
  }
}

const DIED_AWAY = 1e-3;

/** How long what came through a processor is heard after it, until it is 60 dB down, seconds. */
export function ringSeconds(settings: RunSettings): number {
  if (!settings.enabled) return 0;
  if (settings.kind === 'reverb') {
    const { decaySeconds, lowRatio, highRatio, preDelayMs } = settings;
    return preDelayMs / 1000 + decaySeconds * Math.max(1, lowRatio, highRatio);
  }
  if (settings.kind !== 'echo') return 0;
  const { timeMs, feedbackPercent } = settings;
  const again = feedbackPercent > 0 ? Math.log(DIED_AWAY) / Math.log(feedbackPercent / 100) : 0;
  return (timeMs / 1000) * (1 + again);
}

/** A runner for a processor, settled at its settings. */
export function makeRunner(settings: RunSettings, rateHz: number): ProcessorRunner<RunSettings> {
  const make = (): ProcessorRunner<never> => {
    switch (settings.kind) {
      case 'gate':
        return new GateRunner(settings, rateHz);
      case 'compressor':
        return new CompressorRunner(settings, rateHz);
      case 'clipper':
        return new ClipperRunner(settings, rateHz);
      case 'ducker':
        return new DuckerRunner(settings, rateHz);
      case 'reverb':
        return new ReverbRunner(settings, rateHz);
      case 'echo':
        return new EchoRunner(settings, rateHz);
      case 'limiter':
        return new LimiterRunner(settings, rateHz);
      case 'giving-band':
        return new GivingBandRunner(settings, rateHz);
    }
  };
  // A runner is given settings of its own kind only.
  return make() as ProcessorRunner<RunSettings>;
}

export { clipped, clipperCurve } from './clipper-curve';
export { compressorCurveDb } from './compressor';
export { givingShare, type GivingBand } from './giving-band';
export { givingGainDb } from './giving-range';
export { compressorThresholdDb, gateThresholdDb } from './proposals';
export { decayAt } from './reverb-line';
export type { ProcessorRunner } from './runner';
