import { ChainRunner, type Kernels } from './chain-runner';
import type { CompiledSong } from './compile';
import type { DelayLine } from '../processors/delay-line';
import { EasedValue } from '../processors/eased-value';
import { Follower, type Following } from './follow';
import type { TimelineSegment } from './timeline';
import { MAX_BLOCK } from './kernel/layout';
import { NO_KEYS, type KeyBlocks, type KeyTaps } from './keys';
import type { LatencyPlan } from './latency';
import type { Overhearing } from './overhearing';
import type { Levels } from './kernel/kernel';
import type { StripEar, StripEars } from './strip-ears';
import { keysOf, lineOf } from './strip-runner';
import { recover, StripRunners } from './strip-runners';
import { sumOf, type Sums } from './sum';
import type { TrackSection } from './track-section';

type Output = Float32Array | Float64Array;

const gains = new Float64Array(MAX_BLOCK);
const blends = new Float64Array(MAX_BLOCK);
const leftEar = new Float64Array(MAX_BLOCK);
const rightEar = new Float64Array(MAX_BLOCK);

const hearsAll = (ear: EasedValue) => ear.isSettled && ear.value === 1;

/** Runs what lies behind the tracks: from the sums through the buses and the master to what is heard, and the tracks that wait for others. */
export class MixSection implements Following {
  readonly buses: StripRunners;
  readonly masterChain: ChainRunner;
  readonly levels: Levels = { peak: 0, power: 0 };
  private song: CompiledSong | null = null;
  private masterKeys: KeyBlocks = NO_KEYS;
  private masterLine: DelayLine | null = null;
  private follower: Follower | null = null;
  private readonly masterGain: EasedValue;
  private readonly monoBlend: EasedValue;
  private readonly ears: readonly [EasedValue, EasedValue];
  /** Of buses that are heard by themselves. */
  private busEars: (StripEar | null)[] = [];

  /**
   * @param overhearing null where nobody overhears it, nor asks for levels
   * @param heardBy null where nobody hears buses by themselves
   */
  constructor(
    private readonly rateHz: number,
    private readonly sums: Sums,
    private readonly overhearing: Overhearing | null,
    private readonly keys: KeyTaps,
    private readonly tracks: TrackSection,
    private readonly heardBy: StripEars | null = null,
  ) {
    this.buses = new StripRunners(rateHz, overhearing !== null, keys);
    this.masterChain = new ChainRunner(rateHz);
    this.masterGain = new EasedValue(1, rateHz);
    this.monoBlend = new EasedValue(0, rateHz);
    this.ears = [new EasedValue(1, rateHz), new EasedValue(1, rateHz)];
  }

  /** @param frame what is played next; @param first true for the first song; @param inSilence true where nothing is heard */
  set(
    song: CompiledSong,
    { buses, master, places }: LatencyPlan,
    kernels: Kernels,
    frame: number,
    first: boolean,
    inSilence: boolean,
  ): void {
    this.song = song;
    this.buses.set(song.buses, { waits: buses, places: places.buses, frame }, kernels, inSilence);
    this.busEars = song.buses.map(
      ({ id }, i) => this.heardBy?.of(id, places.buses[i].leaves + buses[i].output) ?? null,
    );
    this.follower = song.masterTimeline && new Follower(song.masterTimeline, places.master, this.rateHz);
    const now = this.follower?.stateAt(frame) ?? { gain: song.masterGain, chain: song.masterChain };
    this.masterChain.update(now.chain, kernels, first || inSilence, master.keys);
    this.masterKeys = keysOf(song.masterChain, this.keys);
    this.masterLine = lineOf(master.input, this.masterLine);
    this.masterGain.set(now.gain, first);
    this.monoBlend.set(song.mono ? 1 : 0, first);
    this.ears.forEach((ear, side) => ear.set(song.ears[side], first));
  }

  followMixer({ start, end }: TimelineSegment, share: number, immediately: boolean): void {
    this.masterGain.set(end ? start.gain + share * (end.gain - start.gain) : start.gain, immediately);
  }

  prepareStage(stage: number, { start }: TimelineSegment): void {
    this.masterChain.prepare(stage, start.chain.stages[stage]);
  }

  followStage(
    stage: number,
    { start, end }: TimelineSegment,
    share: number,
    isNew: boolean,
    immediately: boolean,
  ): void {
    const next = end ? end.chain.stages[stage] : null;
    this.masterChain.follow(stage, start.chain.stages[stage], next, share, isNew, immediately);
  }

  /** What passages change at a frame, before it is played. @param immediately true in silence */
  follow(frame: number, immediately: boolean): void {
    this.buses.follow(frame, immediately);
    this.follower?.to(frame, this, immediately);
  }

  /** @param frame of the song, as the tracks have played it */
  process(frame: number, frames: number, outLeft: Output, outRight: Output): void {
    this.follow(frame, false);
    const { song, buses, tracks, sums } = this;
    for (let step = 0; step < song!.steps.length; step++) {
      const { kind, index } = song!.steps[step];
      if (kind === 'track') tracks.runBound(song!.tracks[index].id);
      else this.runBus(index, frame, frames);
    }
    recover(sums, frames, buses, tracks.runners);
    this.finish(frames, outLeft, outRight);
  }

  private runBus(index: number, frame: number, frames: number): void {
    const { left, right } = this.sums.buses[index];
    const runner = this.buses.all[index];
    runner.inputLine?.process(left, right, frames);
    runner.runChain(left, right, frames, this.keys, false);
    const ear = this.busEars[index];
    ear?.sum.clear(frames);
    runner.mix(left, right, frames, this.sums, this.overhearing, ear?.sum);
    ear?.handOn(sumOf(this.sums, runner.plan.output), frame, frames);
  }

  private finish(frames: number, outLeft: Output, outRight: Output): void {
    const { master } = this.sums;
    const { left, right } = master;
    this.masterLine?.process(left, right, frames);
    this.masterChain.process(left, right, frames, this.masterKeys);
    if (!master.isFinite(frames)) {
      master.clear(frames);
      this.masterChain.reset();
    }
    const isPlain = this.monoBlend.isSettled && this.monoBlend.value === 0 && this.ears.every(hearsAll);
    if (!this.overhearing && this.masterGain.isSettled && isPlain) {
      const gain = this.masterGain.value;
      if (gain === 1) {
        outLeft.set(left.subarray(0, frames));
        outRight.set(right.subarray(0, frames));
        return;
      }
      for (let n = 0; n < frames; n++) outLeft[n] = left[n] * gain;
      for (let n = 0; n < frames; n++) outRight[n] = right[n] * gain;
      return;
    }
    this.masterGain.fill(gains, frames);
    this.monoBlend.fill(blends, frames);
    this.ears[0].fill(leftEar, frames);
    this.ears[1].fill(rightEar, frames);
    let peak = 0;
    let power = 0;
    for (let n = 0; n < frames; n++) {
      const l = left[n] * gains[n];
      const r = right[n] * gains[n];
      const blend = blends[n] * 0.5 * (r - l);
      const outL = (l + blend) * leftEar[n];
      const outR = (r - blend) * rightEar[n];
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
    this.masterLine?.reset();
    this.masterChain.reset();
  }

  release(): void {
    this.buses.release();
    this.masterChain.release();
  }
}
