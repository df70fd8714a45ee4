import { MASTER_ID } from '../song/model';
import { latencyOf } from './chain-runner';
import { boundTracks, chainsOverTime, statesOf, type CompiledSong } from './compile';
import type { CompiledChain } from './compile-chain';
import type { ConvolutionKernel } from './convolution-kernel';
import { KeyTaps } from './keys';
import { cutsOf, TimelineCuts } from './follow';
import { planLatency, type LatencyPlan, type StripPlaces, type StripWaits } from './latency';
import { MixSection } from './mix-section';
import { Overhearing, type Monitor, type Tap } from './overhearing';
import type { Reader, SourceOf } from './source';
import type { Levels } from './kernel/kernel';
import { allSums, Sum, type Sums } from './sum';
import { TrackSection } from './track-section';

const NOWHERE: StripPlaces = { stages: [], leaves: 0 };
const NO_LATENCY: LatencyPlan = {
  tracks: [],
  buses: [],
  master: { input: 0, keys: {} },
  places: { tracks: [], buses: [], master: NOWHERE },
  total: 0,
};

const sameWaits = (first: object | undefined, second: object) => JSON.stringify(first) === JSON.stringify(second);

/**
 * Plays a compiled song: samples of the tracks through their chains, faders and positions, sums into buses, the master. A render runs the
 * same two sections. `process` allocates nothing; `setSong` may.
 */
export class Engine {
  private readonly sums: Sums = { master: new Sum(), buses: [] };
  private readonly overhearing = new Overhearing();
  private readonly tracks: TrackSection;
  private readonly mix: MixSection;
  private readonly kernels = new Map<string, ConvolutionKernel>();
  private latency = NO_LATENCY;
  private song: CompiledSong | null = null;
  private cuts = new TimelineCuts([], 0);
  /** What is played next, if nothing jumps. */
  private frame = 0;

  constructor(
    readonly rateHz: number,
    sourceOf: SourceOf,
  ) {
    const keys = new KeyTaps();
    this.tracks = new TrackSection(rateHz, sourceOf, this.sums, this.overhearing, keys);
    this.mix = new MixSection(rateHz, this.sums, this.overhearing, keys, this.tracks);
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
      if (strip === 'master') return latencyOf(song.masterChain, this.kernels, this.rateHz, this.mix.masterChain);
      const running = this.tracks.runners.of(strip.id) ?? this.mix.buses.of(strip.id);
      return latencyOf(strip.chain, this.kernels, this.rateHz, running?.chain);
    });
  }

  /** True when a song would make parts of it later or earlier than they are, or play other recordings in a track: that cannot be eased, it wants silence. */
  wouldShift(song: CompiledSong): boolean {
    if (this.playsOthers(song)) return true;
    const next = this.latencyWith(song);
    // Most songs have none, and are taken at every frame of a drag.
    if (next.total === 0 && this.latency.total === 0) return false;
    if (next.total !== this.latency.total || !sameWaits(next.master, this.latency.master)) return true;
    const before = new Map<string, StripWaits>();
    this.song?.tracks.forEach(({ id }, i) => before.set(id, this.latency.tracks[i]));
    this.song?.buses.forEach(({ id }, i) => before.set(id, this.latency.buses[i]));
    return (
      song.tracks.some(({ id }, i) => !sameWaits(before.get(id), next.tracks[i])) ||
      song.buses.some(({ id }, i) => !sameWaits(before.get(id), next.buses[i]))
    );
  }

  private playsOthers({ tracks }: CompiledSong): boolean {
    const before = this.song?.tracks;
    if (!before || before === tracks) return false;
    // Mostly the tracks are the same ones in the same order.
    if (tracks.every(({ id, audioId }, i) => before[i]?.id === id && before[i].audioId === audioId)) return false;
    const known = new Map(before.map(({ id, audioId }) => [id, audioId]));
    return tracks.some(({ id, audioId }) => (known.get(id) ?? audioId) !== audioId);
  }

  /**
   * Takes a song or the next state of it. The first one applies at once; every later one is eased in.
   * @param inSilence true where nothing is heard: chains are taken at once then, as a shift of latency wants it
   */
  setSong(song: CompiledSong, inSilence = false): void {
    const first = this.song === null;
    const latency = this.latencyWith(song);
    const { sums, kernels } = this;
    this.song = song;
    this.latency = latency;
    while (sums.buses.length < song.buses.length) sums.buses.push(new Sum());
    const bound = new Set(boundTracks(song).map((index) => song.tracks[index].id));
    const { frame } = this;
    const timing = { waits: latency.tracks, places: latency.places.tracks, frame };
    this.tracks.set(song.tracks, timing, kernels, inSilence, bound);
    this.mix.set(song, latency, kernels, frame, first, inSilence);
    this.cuts = cutsOf(song, latency);
    this.forgetKernels();
  }

  /** Lets go of the kernels that neither the song nor its passages ask for. */
  private forgetKernels(): void {
    const { song, kernels } = this;
    if (!song || kernels.size === 0) return;
    const kernelsOf = ({ stages }: CompiledChain) =>
      stages.flatMap((stage) => (stage.kind === 'convolution' ? [stage.kernelId] : []));
    // A chain has the same stages all through a song.
    const convolved = chainsOverTime(song).filter(({ chain }) => kernelsOf(chain).length > 0);
    const wanted = new Set(convolved.flatMap(statesOf).flatMap(kernelsOf));
    for (const id of kernels.keys()) if (!wanted.has(id)) kernels.delete(id);
  }

  /** Gives back what it holds: it must not be used again. */
  release(): void {
    this.tracks.release();
    this.mix.release();
    for (const sum of allSums(this.sums)) sum.release();
  }

  /** Forgets the past of the signal everywhere: for a jump in silence. */
  reset(): void {
    this.tracks.runners.reset();
    this.mix.reset();
  }

  /**
   * What is played next lies elsewhere in the song, or begins after a rest, and nothing is heard at this moment: passages are taken as they are
   * there, and samples that are not there yet count as late after a second only.
   */
  jump(frame: number): void {
    this.frame = frame;
    this.tracks.jump(frame);
    if (this.song) this.mix.follow(frame, true);
  }

  /** True where the samples of every track that is heard are there, from a frame on, so many; but for those that were waited for in vain. */
  isThere(frame: number, frames: number): boolean {
    return this.tracks.isThere(frame, frames);
  }

  /** The wait for samples is over: tracks of which they are missing are not waited for again until some of them have come. */
  endWait(frame: number, frames: number): void {
    this.tracks.endWait(frame, frames);
  }

  /** How many frames from one on may be run at once, so that every passage begins and ends at its own. @param count as many at most */
  runLength(frame: number, count: number): number {
    return this.cuts.runLength(frame, count);
  }

  /** Looks up the samples of the tracks again: call it when recordings have arrived. */
  refreshSources(): void {
    this.tracks.refresh();
  }

  /** Rings to write a track's mono samples into, before and after its chain; all rings have the same length. */
  setTaps(taps: ReadonlyMap<string, Tap>): void {
    this.overhearing.setTaps(taps);
    this.tracks.refresh();
  }

  /** Overhears a strip, one at a time. */
  setMonitor(monitor: Monitor | null): void {
    this.overhearing.setMonitor(monitor);
  }

  /** Place in the rings where the next sample is written; counts on for ever. */
  get tapPosition(): number {
    return this.overhearing.position;
  }

  /** Levels of a track in the last block. */
  trackLevels(index: number): Levels {
    return this.tracks.runners.all[index].levels;
  }

  /** Levels of a bus in the last block. */
  busLevels(index: number): Levels {
    return this.mix.buses.all[index].levels;
  }

  /** What a processor of a strip, or a band that gives way, takes away or adds at this moment, dB. */
  gainDbOf(stripId: string, id: string): number {
    const strip = this.tracks.runners.of(stripId) ?? this.mix.buses.of(stripId);
    const chain = stripId === MASTER_ID ? this.mix.masterChain : strip?.chain;
    return chain?.gainDbOf(id) ?? 0;
  }

  /** How often samples were not there in time, since the beginning; the tracks fade out and in then. */
  get lateCount(): number {
    return this.tracks.lateCount;
  }

  get masterLevels(): Levels {
    return this.mix.levels;
  }

  /**
   * The next `frames` frames of the mix.
   * @param frame position in the song
   * @param frames 1 to {@link MAX_BLOCK}, and to what {@link runLength} allows
   * @param reader changes what is read of a source: for loops and fades; the default reads it as it is
   */
  process(
    frame: number,
    frames: number,
    outLeft: Float32Array | Float64Array,
    outRight: Float32Array | Float64Array,
    reader?: Reader,
  ): void {
    this.sums.master.clear(frames);
    for (let i = 0; i < this.sums.buses.length; i++) this.sums.buses[i].clear(frames);
    this.tracks.process(frame, frames, reader);
    this.mix.process(frame, frames, outLeft, outRight);
    this.frame = frame + frames;
    this.overhearing.position += frames;
  }
}
