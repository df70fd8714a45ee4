import { ChainRunner } from './chain-runner';
import type { CompiledSong, CompiledStrip, CompiledTrack } from './compile';
import type { ConvolutionKernel } from './convolver';
import { DelayLine } from './delay-line';
import { EasedValue } from './eased-value';
import { threadKernel } from './kernel/kernel';
import { MAX_BLOCK } from './kernel/layout';
import { planLatency, type LatencyPlan, type StripWaits } from './latency';
import type { SampleSource } from './source';

const NO_LATENCY: LatencyPlan = { tracks: [], buses: [], total: 0 };

/** Where the samples of a track can be overheard: rings of mono samples, written one after the other. */
export interface Tap {
  before: Float32Array | null;
  after: Float32Array;
}

/** Where both sides of a strip can be overheard as they leave it: rings as those of the taps. */
export interface Monitor {
  /** Null for the mix, as it is heard. */
  stripId: string | null;
  left: Float32Array;
  right: Float32Array;
}

/** What is measured of a strip in the last block: peak (linear) and the sum of squares of its two sides, after the fader. */
export interface Levels {
  peak: number;
  power: number;
}

const lineOf = (frames: number, known: DelayLine | null | undefined): DelayLine | null =>
  frames === 0 ? null : known?.frames === frames ? known : new DelayLine(frames);

/** The fader of a strip; shut where nothing of it is heard. */
const faderOf = ({ gain, audible, sends }: CompiledStrip) =>
  audible === 1 || sends.some((send) => send.audible === 1) ? gain : 0;

class StripRunner {
  readonly chain: ChainRunner;
  readonly gain: EasedValue;
  /** 1 where its output is heard; its sends may be heard where it is not. */
  readonly through: EasedValue;
  readonly leftGain: EasedValue;
  readonly rightGain: EasedValue;
  readonly sendGains: EasedValue[] = [];
  readonly levels: Levels = { peak: 0, power: 0 };
  /** What waits for others that are later. */
  inputLine: DelayLine | null = null;
  outputLine: DelayLine | null = null;
  sendLines: (DelayLine | null)[] = [];
  plan: CompiledStrip;

  constructor(plan: CompiledStrip, rateHz: number) {
    this.plan = plan;
    this.chain = new ChainRunner(rateHz);
    this.gain = new EasedValue(faderOf(plan), rateHz);
    this.through = new EasedValue(plan.audible, rateHz);
    this.leftGain = new EasedValue(plan.leftGain, rateHz);
    this.rightGain = new EasedValue(plan.rightGain, rateHz);
  }

  update(plan: CompiledStrip, immediately: boolean, rateHz: number): void {
    this.plan = plan;
    this.gain.set(faderOf(plan), immediately);
    this.through.set(plan.audible, immediately);
    this.leftGain.set(plan.leftGain, immediately);
    this.rightGain.set(plan.rightGain, immediately);
    plan.sends.forEach((send, i) => {
      const gain = send.gain * send.audible;
      if (this.sendGains[i]) this.sendGains[i].set(gain, immediately);
      else this.sendGains[i] = new EasedValue(gain, rateHz);
    });
  }

  setWaits({ output, sends }: StripWaits, input = 0): void {
    this.inputLine = lineOf(input, this.inputLine);
    this.outputLine = lineOf(output, this.outputLine);
    this.sendLines = sends.map((frames, i) => lineOf(frames, this.sendLines[i]));
  }

  reset(): void {
    this.chain.reset();
    for (const line of [this.inputLine, this.outputLine, ...this.sendLines]) line?.reset();
  }
}

/** A stereo sum. */
class Sum {
  readonly left = new Float64Array(MAX_BLOCK);
  readonly right = new Float64Array(MAX_BLOCK);

  clear(frames: number): void {
    this.left.fill(0, 0, frames);
    this.right.fill(0, 0, frames);
  }
}

/** True for numbers only: a sum of zeros is no number where one of them was none, or was infinite. */
function areFinite({ left, right }: Sum, frames: number): boolean {
  let zeros = 0;
  for (let n = 0; n < frames; n++) zeros += left[n] * 0 + right[n] * 0;
  return zeros === 0;
}

function addTo(sum: Sum, { left, right }: Sum, frames: number): void {
  for (let n = 0; n < frames; n++) {
    sum.left[n] += left[n];
    sum.right[n] += right[n];
  }
}

/**
 * Runs a compiled song: samples of the tracks through their chains, faders and positions, sums into buses, the master.
 * The same code plays, renders and is tested. `process` allocates nothing; `setSong` may.
 */
export class Engine {
  private tracks: StripRunner[] = [];
  private buses: StripRunner[] = [];
  private readonly kept = new Map<string, StripRunner>();
  private sums: Sum[] = [];
  private readonly master = new Sum();
  private readonly faded = new Sum();
  private readonly sent = new Sum();
  private readonly masterChain: ChainRunner;
  private readonly kernels = new Map<string, ConvolutionKernel>();
  private latency = NO_LATENCY;
  private readonly masterGain: EasedValue;
  private readonly monoBlend: EasedValue;
  /** Where a track is worked on: the kernel's own block. */
  private readonly left = threadKernel().left;
  private readonly right = threadKernel().right;
  private readonly gains = new Float64Array(MAX_BLOCK);
  private readonly sideGains = new Float64Array(MAX_BLOCK);
  private song: CompiledSong | null = null;
  private sources: (SampleSource | undefined)[] = [];
  private readonly taps = new Map<string, Tap>();
  private trackTaps: (Tap | undefined)[] = [];
  private tapped = 0;
  private monitor: Monitor | null = null;
  private watched: StripRunner | null = null;
  readonly masterLevels: Levels = { peak: 0, power: 0 };

  constructor(
    readonly rateHz: number,
    private readonly sourceOf: (track: CompiledTrack) => SampleSource | undefined,
    /** False where nobody asks for the levels of the strips. */
    private readonly measures = true,
  ) {
    this.masterChain = new ChainRunner(rateHz);
    this.masterGain = new EasedValue(1, rateHz);
    this.monoBlend = new EasedValue(0, rateHz);
  }

  /** Keeps a kernel that a song asks for; it is heard when that song, or the one that runs, is set again. */
  addKernel(kernelId: string, kernel: ConvolutionKernel): void {
    this.kernels.set(kernelId, kernel);
  }

  /** How late the sound is, frames: the longest way through the song. */
  get latencyFrames(): number {
    return this.latency.total;
  }

  private latencyWith(song: CompiledSong): LatencyPlan {
    return planLatency(song, (strip) => {
      if (strip === 'master') return this.masterChain.latencyWith(song.masterChain, this.kernels);
      const chain = this.kept.get(strip.id)?.chain ?? new ChainRunner(this.rateHz);
      return chain.latencyWith(strip.chain, this.kernels);
    });
  }

  /** True when a song would make parts of it later or earlier than they are: that cannot be eased, it wants silence. */
  wouldShift(song: CompiledSong): boolean {
    const next = this.latencyWith(song);
    if (next.total === 0 && this.latency.total === 0) return false;
    const before = new Map(this.song?.tracks.map((track, i) => [track.id, JSON.stringify(this.latency.tracks[i])]));
    return (
      next.total !== this.latency.total ||
      song.tracks.some((track, i) => before.get(track.id) !== JSON.stringify(next.tracks[i]))
    );
  }

  /** Takes a song or the next state of it. The first one applies at once; every later one is eased in, but for a shift of latency. */
  setSong(song: CompiledSong): void {
    const first = this.song === null;
    const latency = this.latencyWith(song);
    this.song = song;
    const runner = (plan: CompiledStrip) => {
      const known = this.kept.get(plan.id);
      // A plan is never changed in place; only a kernel may have come since.
      if (known?.plan === plan && plan.chain.convolutions.length === 0) return known;
      const one = known ?? new StripRunner(plan, this.rateHz);
      this.kept.set(plan.id, one);
      one.update(plan, !known, this.rateHz);
      one.chain.update(plan.chain, this.kernels, !known);
      return one;
    };
    this.tracks = song.tracks.map(runner);
    this.buses = song.buses.map(runner);
    this.latency = latency;
    this.tracks.forEach((track, i) => track.setWaits(latency.tracks[i], latency.tracks[i].input));
    this.buses.forEach((bus, i) => bus.setWaits(latency.buses[i]));
    const alive = new Set([...song.tracks, ...song.buses].map((plan) => plan.id));
    for (const id of this.kept.keys()) if (!alive.has(id)) this.kept.delete(id);
    while (this.sums.length < this.buses.length) this.sums.push(new Sum());
    this.refreshSources();
    this.watchStrip();
    this.masterChain.update(song.masterChain, this.kernels, first);
    this.masterGain.set(song.masterGain, first);
    this.monoBlend.set(song.mono ? 1 : 0, first);
    const wanted = new Set(
      [...song.tracks, ...song.buses, { chain: song.masterChain }].flatMap(({ chain }) =>
        chain.convolutions.map(({ kernelId }) => kernelId),
      ),
    );
    for (const id of this.kernels.keys()) if (!wanted.has(id)) this.kernels.delete(id);
  }

  /** Forgets the past of the signal everywhere: for a jump in silence. */
  reset(): void {
    for (const track of this.tracks) track.reset();
    for (const bus of this.buses) bus.reset();
    this.masterChain.reset();
  }

  /** Looks up the samples of the tracks again: call it when recordings have arrived. */
  refreshSources(): void {
    if (!this.song) return;
    this.sources = this.song.tracks.map((track) => this.sourceOf(track));
    this.trackTaps = this.song.tracks.map((track) => this.taps.get(track.id));
  }

  /** Rings to write a track's mono samples into, before and after its chain; all rings have the same length. */
  setTaps(taps: ReadonlyMap<string, Tap>): void {
    this.taps.clear();
    for (const [id, tap] of taps) this.taps.set(id, tap);
    this.refreshSources();
  }

  /** Overhears a strip, one at a time. */
  setMonitor(monitor: Monitor | null): void {
    this.monitor = monitor;
    this.watchStrip();
  }

  private watchStrip(): void {
    const id = this.monitor?.stripId;
    this.watched = [...this.tracks, ...this.buses].find(({ plan }) => plan.id === id) ?? null;
  }

  /** Place in the rings where the next sample is written; counts on for ever. */
  get tapPosition(): number {
    return this.tapped;
  }

  /** Levels of a track in the last block. */
  trackLevels(index: number): Levels {
    return this.tracks[index].levels;
  }

  /**
   * The next `frames` frames of the mix.
   * @param frame position in the song
   * @param frames 1 to {@link MAX_BLOCK}
   * @param reader changes what is read of a source: for loops and fades; the default reads it as it is
   */
  process(
    frame: number,
    frames: number,
    outLeft: Float32Array | Float64Array,
    outRight: Float32Array | Float64Array,
    reader: Reader = PLAIN_READER,
  ): void {
    this.clearSums(frames);
    for (let i = 0; i < this.tracks.length; i++) this.runTrack(i, frame, frames, reader);
    this.recover(this.tracks, frames);
    this.mixSums(frames, outLeft, outRight);
    this.tapped += frames;
  }

  /** The first half of `process`, for some of the tracks: what they give is in {@link trackSums}. */
  mixTracks(trackIndexes: readonly number[], frame: number, frames: number): void {
    this.clearSums(frames);
    for (const i of trackIndexes) this.runTrack(i, frame, frames, PLAIN_READER);
    this.recover(this.tracks, frames);
  }

  /**
   * Where a sample that is no number, or an infinite one, has come into the sums: this block is silent, and the strips that hold such a
   * sample begin anew, so that one bad sample is not heard for ever.
   */
  private recover(runners: readonly StripRunner[], frames: number): void {
    let isFinite = areFinite(this.master, frames);
    for (let i = 0; i < this.buses.length; i++) isFinite = areFinite(this.sums[i], frames) && isFinite;
    if (isFinite) return;
    this.clearSums(frames);
    for (let i = 0; i < runners.length; i++) {
      const { levels } = runners[i];
      if (Number.isFinite(levels.peak + levels.power) && runners[i].chain.isSound) continue;
      levels.peak = levels.power = 0;
      runners[i].reset();
    }
  }

  /** The second half: what lies in {@link trackSums} through the buses and the master. */
  mixSums(frames: number, outLeft: Float32Array | Float64Array, outRight: Float32Array | Float64Array): void {
    for (let i = 0; i < this.buses.length; i++) {
      const { left, right } = this.sums[i];
      this.buses[i].chain.process(left, right, frames);
      this.mixStrip(this.buses[i], left, right, frames);
    }
    this.recover(this.buses, frames);
    this.finish(frames, outLeft, outRight);
  }

  /** What the tracks give to the master and to each bus: left and right in turn, {@link MAX_BLOCK} frames long. */
  get trackSums(): Float64Array[] {
    return [this.master, ...this.sums.slice(0, this.buses.length)].flatMap(({ left, right }) => [left, right]);
  }

  private clearSums(frames: number): void {
    this.master.clear(frames);
    for (let i = 0; i < this.buses.length; i++) this.sums[i].clear(frames);
  }

  private runTrack(i: number, frame: number, frames: number, reader: Reader): void {
    const runner = this.tracks[i];
    const source = this.sources[i];
    const stereo = source?.channels === 2;
    const { left, right } = this;
    if (source) reader.read(source, frame, frames, left, right);
    else left.fill(0, 0, frames);
    runner.inputLine?.process(left, stereo ? right : null, frames);
    const tap = this.trackTaps[i];
    if (tap?.before) this.writeTap(tap.before, stereo, frames);
    runner.chain.process(left, stereo ? right : null, frames);
    if (tap) this.writeTap(tap.after, stereo, frames);
    this.mixStrip(runner, left, stereo ? right : left, frames);
  }

  private writeTap(ring: Float32Array, stereo: boolean, frames: number): void {
    const { left, right } = this;
    const mask = ring.length - 1;
    for (let n = 0; n < frames; n++) ring[(this.tapped + n) & mask] = stereo ? (left[n] + right[n]) / 2 : left[n];
  }

  private writeMonitor(left: ArrayLike<number>, right: ArrayLike<number>, frames: number): void {
    const rings = this.monitor!;
    const mask = rings.left.length - 1;
    for (let n = 0; n < frames; n++) {
      const place = (this.tapped + n) & mask;
      rings.left[place] = left[n];
      rings.right[place] = right[n];
    }
  }

  /** Fader, position, sends and output of a strip. `right` may be the same array as `left`, for mono. */
  private mixStrip(runner: StripRunner, left: Float64Array, right: Float64Array, frames: number): void {
    const { plan, gain, through, leftGain, rightGain, outputLine } = runner;
    const target = plan.output < 0 ? this.master : this.sums[plan.output];
    runner.levels.peak = 0;
    runner.levels.power = 0;
    const isWatched = runner === this.watched;
    if (
      !isWatched &&
      plan.sends.length === 0 &&
      !outputLine &&
      gain.isSettled &&
      through.isSettled &&
      leftGain.isSettled &&
      rightGain.isSettled
    ) {
      this.mixSettled(runner.levels, gain.value * through.value * leftGain.value, left, target.left, frames);
      this.mixSettled(runner.levels, gain.value * through.value * rightGain.value, right, target.right, frames);
      runner.levels.power /= frames;
      return;
    }
    const { gains, faded } = this;
    for (let i = 0; i < plan.sends.length; i++)
      if (plan.sends[i].beforeFader) this.send(runner, i, left, right, frames);
    gain.fill(gains, frames);
    this.fade(runner.levels, leftGain, left, faded.left, frames);
    this.fade(runner.levels, rightGain, right, faded.right, frames);
    runner.levels.power /= frames;
    if (isWatched) this.writeMonitor(faded.left, faded.right, frames);
    for (let i = 0; i < plan.sends.length; i++)
      if (!plan.sends[i].beforeFader) this.send(runner, i, faded.left, faded.right, frames);
    if (!through.isSettled || through.value !== 1) this.letThrough(runner, frames);
    outputLine?.process(faded.left, faded.right, frames);
    addTo(target, faded, frames);
  }

  /** Shuts the output of a strip whose sends alone are heard. */
  private letThrough({ through, levels }: StripRunner, frames: number): void {
    const { sideGains, faded } = this;
    through.fill(sideGains, frames);
    for (let n = 0; n < frames; n++) {
      faded.left[n] *= sideGains[n];
      faded.right[n] *= sideGains[n];
    }
    if (through.isSettled && through.value === 0) levels.peak = levels.power = 0;
  }

  /** The short way of one side of a strip that rests and goes to one place. */
  private mixSettled(levels: Levels, factor: number, samples: Float64Array, sum: Float64Array, frames: number): void {
    if (factor === 0) return;
    if (!this.measures) {
      for (let n = 0; n < frames; n++) sum[n] += samples[n] * factor;
      return;
    }
    let { peak, power } = levels;
    for (let n = 0; n < frames; n++) {
      const value = samples[n] * factor;
      sum[n] += value;
      power += value * value;
      const size = value < 0 ? -value : value;
      if (size > peak) peak = size;
    }
    levels.peak = peak;
    levels.power = power;
  }

  /** One side of a strip through its fader, whose gains lie ready, and its position. */
  private fade(levels: Levels, sideGain: EasedValue, samples: Float64Array, out: Float64Array, frames: number): void {
    const { gains, sideGains } = this;
    let { peak, power } = levels;
    sideGain.fill(sideGains, frames);
    for (let n = 0; n < frames; n++) {
      const value = samples[n] * gains[n] * sideGains[n];
      out[n] = value;
      power += value * value;
      const size = value < 0 ? -value : value;
      if (size > peak) peak = size;
    }
    levels.peak = peak;
    levels.power = power;
  }

  private send(runner: StripRunner, index: number, left: Float64Array, right: Float64Array, frames: number): void {
    const { sideGains, sent } = this;
    runner.sendGains[index].fill(sideGains, frames);
    for (let n = 0; n < frames; n++) {
      sent.left[n] = left[n] * sideGains[n];
      sent.right[n] = right[n] * sideGains[n];
    }
    runner.sendLines[index]?.process(sent.left, sent.right, frames);
    const { bus } = runner.plan.sends[index];
    addTo(bus < 0 ? this.master : this.sums[bus], sent, frames);
  }

  private finish(frames: number, outLeft: Float32Array | Float64Array, outRight: Float32Array | Float64Array): void {
    const { left, right } = this.master;
    this.masterChain.process(left, right, frames);
    if (!areFinite(this.master, frames)) {
      this.master.clear(frames);
      this.masterChain.reset();
    }
    this.masterGain.fill(this.gains, frames);
    this.monoBlend.fill(this.sideGains, frames);
    let peak = 0;
    let power = 0;
    for (let n = 0; n < frames; n++) {
      const l = left[n] * this.gains[n];
      const r = right[n] * this.gains[n];
      const blend = this.sideGains[n] * 0.5 * (r - l);
      const outL = l + blend;
      const outR = r - blend;
      outLeft[n] = outL;
      outRight[n] = outR;
      const size = Math.max(outL < 0 ? -outL : outL, outR < 0 ? -outR : outR);
      if (size > peak) peak = size;
      power += outL * outL + outR * outR;
    }
    this.masterLevels.peak = peak;
    this.masterLevels.power = power / frames;
    if (this.monitor?.stripId === null) this.writeMonitor(outLeft, outRight, frames);
  }
}

/** How the engine reads a source at a position of the song. */
export interface Reader {
  read(source: SampleSource, frame: number, count: number, left: Float64Array, right: Float64Array): void;
}

export const PLAIN_READER: Reader = {
  read: (source, frame, count, left, right) => source.read(frame, count, left, right),
};
