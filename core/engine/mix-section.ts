import { ChainRunner, type Kernels } from './chain-runner';
import type { CompiledSong } from './compile';
import { EasedValue } from './eased-value';
import { MAX_BLOCK } from './kernel/layout';
import type { LatencyPlan } from './latency';
import type { Overhearing } from './overhearing';
import type { Levels } from './strip-runner';
import { StripRunners } from './strip-runners';
import type { Sums } from './sum';

type Output = Float32Array | Float64Array;

const gains = new Float64Array(MAX_BLOCK);
const blends = new Float64Array(MAX_BLOCK);

/** Runs what lies behind the tracks: from the sums through the buses and the master to what is heard. */
export class MixSection {
  readonly buses: StripRunners;
  readonly masterChain: ChainRunner;
  readonly levels: Levels = { peak: 0, power: 0 };
  private readonly masterGain: EasedValue;
  private readonly monoBlend: EasedValue;

  /** @param overhearing null where nobody overhears it, nor asks for levels */
  constructor(
    rateHz: number,
    private readonly sums: Sums,
    private readonly overhearing: Overhearing | null,
  ) {
    this.buses = new StripRunners(rateHz, overhearing !== null);
    this.masterChain = new ChainRunner(rateHz);
    this.masterGain = new EasedValue(1, rateHz);
    this.monoBlend = new EasedValue(0, rateHz);
  }

  /** @param first true for the first song; @param inSilence true where nothing is heard */
  set(song: CompiledSong, waits: LatencyPlan['buses'], kernels: Kernels, first: boolean, inSilence: boolean): void {
    this.buses.set(song.buses, kernels, inSilence);
    this.buses.all.forEach((bus, i) => bus.setWaits(waits[i]));
    this.masterChain.update(song.masterChain, kernels, first || inSilence);
    this.masterGain.set(song.masterGain, first);
    this.monoBlend.set(song.mono ? 1 : 0, first);
  }

  process(frames: number, outLeft: Output, outRight: Output): void {
    for (let i = 0; i < this.buses.all.length; i++) {
      const { left, right } = this.sums.buses[i];
      this.buses.all[i].chain.process(left, right, frames);
      this.buses.all[i].mix(left, right, frames, this.sums, this.overhearing);
    }
    this.buses.recover(this.sums, frames);
    this.finish(frames, outLeft, outRight);
  }

  private finish(frames: number, outLeft: Output, outRight: Output): void {
    const { master } = this.sums;
    const { left, right } = master;
    this.masterChain.process(left, right, frames);
    if (!master.isFinite(frames)) {
      master.clear(frames);
      this.masterChain.reset();
    }
    if (!this.overhearing && this.masterGain.isSettled && this.monoBlend.isSettled && this.monoBlend.value === 0) {
      const gain = this.masterGain.value;
      for (let n = 0; n < frames; n++) outLeft[n] = left[n] * gain;
      for (let n = 0; n < frames; n++) outRight[n] = right[n] * gain;
      return;
    }
    this.masterGain.fill(gains, frames);
    this.monoBlend.fill(blends, frames);
    let peak = 0;
    let power = 0;
    for (let n = 0; n < frames; n++) {
      const l = left[n] * gains[n];
      const r = right[n] * gains[n];
      const blend = blends[n] * 0.5 * (r - l);
      const outL = l + blend;
      const outR = r - blend;
      outLeft[n] = outL;
      outRight[n] = outR;
      const size = Math.max(outL < 0 ? -outL : outL, outR < 0 ? -outR : outR);
      if (size > peak) peak = size;
      power += outL * outL + outR * outR;
    }
    this.levels.peak = peak;
    this.levels.power = power / frames;
    if (this.overhearing?.isWatched(null)) this.overhearing.writeMonitor(outLeft, outRight, frames);
  }

  reset(): void {
    this.buses.reset();
    this.masterChain.reset();
  }

  release(): void {
    this.buses.release();
    this.masterChain.release();
  }
}
