import {
  changesBetween,
  compileHearing,
  heardSong,
  isHeard,
  kernelBuffers,
  kernelRequests,
  PIECE_FRAMES,
  PIECES_OF_PAGE,
  SHIFT_TAPS,
  type CompiledSong,
  type Hearing,
  type KernelRequest,
  type LoopFrames,
} from '@/core/engine';
import type { Song } from '@/core/song';
import { proxy, wrap, type Remote } from 'comlink';
import type { FeederWorker } from '@/workers/feeder';
import type { LinearPhase } from '@/workers/linear-phase';
import { MOST_BYTES, type NeededRecording } from './feeder';
import { KernelDesigner, type SizedKernel } from './kernel-designer';
import { PROCESSOR_NAME, type EngineMessage } from './messages';
import { openWorker, type PatientWorker } from './open-worker';
import { newTable } from './sample-memory';
import { SharedState } from './shared-state';

/** Samples in the ring of a tap; a power of two. */
export const RING_SAMPLES = 16384;

export interface TapRings {
  trackId: string;
  before: SharedArrayBuffer;
  after: SharedArrayBuffer;
}

/** More than any output takes. */
const MOST_LATENCY_SECONDS = 2;
/** A browser that has not resumed after this long does not let the page sound. */
const RESUME_MS = 2000;
const SUSPENDED =
  'The browser does not let this page sound yet. Click into the page, allow sound for it, then press Play again.';
const noSound = (why: string) =>
  `There is no sound output for this page (${why}). Everything else works; look at the sound settings of the system, then reload the page.`;
const NO_ENGINE =
  'What plays this song could not be had from the server. Your song is as it was: press Play again when the server is back.';

/** What the page is told by the session. */
export interface SessionListener {
  onLoading: (progress: number) => void;
  onError: (message: string) => void;
  /** The sound has stopped by itself: what happened and what to do. */
  onSuspended: (message: string) => void;
  /** An equalizer of linear phase runs with a new kernel: how late it is, and how far its level strays, dB. */
  onLatency: (equalizerId: string, seconds: number, worstErrorDb: number) => void;
  onTaps: (rings: readonly TapRings[]) => void;
}

/** How far behind the playhead and ahead of it the tracks of a song are read, frames. */
function reachOf(song: CompiledSong | null): { behind: number; ahead: number } {
  const delays = song?.tracks.map(({ delayFrames }) => delayFrames) ?? [];
  const frames = (most: number) => (most > 0 ? Math.ceil(most) + SHIFT_TAPS : 0);
  return { behind: frames(Math.max(0, ...delays)), ahead: frames(-Math.min(0, ...delays)) };
}

/** The sound of one song in this window: the audio context, the engine's node, the feeder. */
export class AudioSession {
  readonly state = new SharedState();
  /** Null where the browser gives none. */
  private readonly context: AudioContext | null;
  /** True from Play to Stop. */
  isWanted = false;
  private node: AudioWorkletNode | null = null;
  /** The node that is being made; its failure is forgotten, so that the next to ask tries again. */
  private opening: Promise<void> | null = null;
  private failedOpenings = 0;
  private readonly samples = new SharedArrayBuffer(MOST_BYTES);
  private readonly feedingWorker: PatientWorker;
  private readonly feeder: Remote<FeederWorker>;
  /** The tables of the recordings that the audio thread knows. */
  private readonly tables = new Map<string, SharedArrayBuffer>();
  /** What the feeder was told of them last. */
  private fed = '';
  private readonly linearPhase: PatientWorker;
  private readonly designer: KernelDesigner;
  /** Kernels that the audio thread has. */
  private kernels = new Map<string, { key: string; taps: number }>();
  /** Those that the song asks for. */
  private requests: readonly KernelRequest[] = [];
  /** What the audio thread has of the song. */
  private posted: CompiledSong | null = null;
  private heard: { song: Song; hearing: Hearing } | null = null;
  private readonly rings = new Map<string, TapRings>();
  private waiting: { message: EngineMessage; transfer: Transferable[] }[] = [];

  constructor(
    rateHz: number,
    private readonly listener: SessionListener,
  ) {
    this.context = this.openContext(rateHz);
    this.feedingWorker = openWorker('/audio/feeder.js', listener.onError);
    this.feeder = wrap<FeederWorker>(this.feedingWorker);
    void this.feeder.open(this.samples, rateHz, this.state.buffer, proxy(listener.onLoading), proxy(listener.onError));
    this.linearPhase = openWorker('/audio/linear-phase.js', listener.onError);
    const { design } = wrap<LinearPhase>(this.linearPhase);
    const onKernel = ({ key }: KernelRequest, { kernelId, kernel, taps, worstErrorDb }: SizedKernel) => {
      const { latencyFrames } = kernel;
      this.post({ type: 'kernel', kernelId, kernel }, kernelBuffers(kernel));
      // All of one equalizer are as long as its longest: shorter ones are made anew.
      for (const [id, other] of this.kernels) if (other.key === key && other.taps < taps) this.kernels.delete(id);
      this.kernels.set(kernelId, { key, taps });
      listener.onLatency(key, latencyFrames / rateHz, worstErrorDb);
      this.postSong();
      this.wantKernels();
    };
    this.designer = new KernelDesigner(design, onKernel, listener.onError);
    this.openNode().catch((error: Error) => listener.onError(error.message));
  }

  private openContext(rateHz: number): AudioContext | null {
    try {
      const context = new AudioContext({ sampleRate: rateHz, latencyHint: 'interactive' });
      context.onstatechange = () => {
        if (!this.isWanted || context.state === 'running' || context.state === 'closed') return;
        this.isWanted = false;
        this.listener.onSuspended('The system has taken the sound output away. Press Play to go on.');
      };
      return context;
    } catch (error) {
      this.listener.onError(noSound((error as Error).message));
      return null;
    }
  }

  /** Makes the engine's node, once. @throws Error what is in the way, and what to do */
  private openNode(): Promise<void> {
    this.opening ??= this.makeNode().catch((error: unknown) => {
      this.opening = null;
      this.failedOpenings++;
      throw error;
    });
    return this.opening;
  }

  private async makeNode(): Promise<void> {
    if (!this.context) return;
    // A browser remembers of an address that it failed, and does not ask for it again.
    const again = this.failedOpenings > 0 ? `?again=${this.failedOpenings}` : '';
    await this.context.audioWorklet.addModule(`/audio/worklet.js${again}`).catch((cause: unknown) => {
      throw new Error(NO_ENGINE, { cause });
    });
    const node = this.newNode(this.context);
    node.onprocessorerror = () => this.listener.onError('The audio thread stopped with an error. Reload the page.');
    node.connect(this.context.destination);
    this.node = node;
    for (const { message, transfer } of this.waiting.splice(0)) node.port.postMessage(message, transfer);
  }

  private newNode(context: AudioContext): AudioWorkletNode {
    try {
      return new AudioWorkletNode(context, PROCESSOR_NAME, {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: { state: this.state.buffer, samples: this.samples },
      });
    } catch (error) {
      throw new Error(noSound((error as Error).message), { cause: error });
    }
  }

  private post(message: EngineMessage, transfer: Transferable[] = []): void {
    if (this.node) this.node.port.postMessage(message, transfer);
    else this.waiting.push({ message, transfer });
  }

  /**
   * Takes a song as it is listened to; what sounds is eased there.
   * @param recordings all that may be heard, though this song may not have them
   * @param soon those of which the sound is brought, though this song does not play them yet
   */
  setSong(
    song: Song,
    hearing: Hearing,
    recordings: readonly NeededRecording[],
    soon: readonly NeededRecording[] = [],
  ): void {
    this.heard = { song, hearing };
    this.postSong();
    this.wantKernels();
    this.feed([...recordings, ...soon], soon);
    this.updateTaps(song);
  }

  /** Tells the audio thread and the feeder which recordings there are, and the feeder which of them are heard. */
  private feed(recordings: readonly NeededRecording[], soon: readonly NeededRecording[]): void {
    const played = this.posted?.tracks.filter(isHeard) ?? [];
    const heard = new Set([...played, ...soon].map(({ audioId }) => audioId));
    const wanted = new Map(recordings.map((recording) => [recording.audioId, recording]));
    const reach = reachOf(this.posted);
    const key = JSON.stringify([reach, ...[...wanted.keys()].map((audioId) => [audioId, heard.has(audioId)])]);
    if (key === this.fed) return;
    this.fed = key;
    for (const audioId of this.tables.keys()) {
      if (wanted.has(audioId)) continue;
      this.tables.delete(audioId);
      this.post({ type: 'forget', audioId });
    }
    for (const { audioId, channels, lengthFrames } of wanted.values()) {
      if (this.tables.has(audioId)) continue;
      const table = newTable(channels, lengthFrames);
      this.tables.set(audioId, table);
      this.post({ type: 'recording', audioId, channels, lengthFrames, table });
    }
    void this.feeder.need(
      [...wanted.values()].map(({ audioId, channels, lengthFrames }) => ({
        audioId,
        channels,
        lengthFrames,
        table: this.tables.get(audioId)!,
        isHeard: heard.has(audioId),
      })),
      reach,
    );
  }

  /** True where what a recording has from the playhead on is here, for a while. */
  isHere({ audioId, channels, lengthFrames }: NeededRecording): boolean {
    const table = this.tables.get(audioId);
    if (!table) return false;
    const first = Math.floor(this.state.position / PIECE_FRAMES);
    const last = Math.min(first + PIECES_OF_PAGE, Math.ceil(lengthFrames / PIECE_FRAMES) - 1);
    const slots = new Int32Array(table).subarray(first * channels, (last + 1) * channels);
    return slots.every((_, i) => Atomics.load(slots, i) !== 0);
  }

  /** The audio thread forgets the kernels that a song does not ask for. */
  private postSong(): void {
    if (!this.heard) return;
    const { song, hearing } = this.heard;
    const compiled = compileHearing(song, hearing);
    const changes = this.posted && changesBetween(this.posted, compiled);
    this.post(changes ? { type: 'changes', changes } : { type: 'song', song: compiled });
    this.posted = compiled;
    this.requests = kernelRequests(heardSong(song, hearing));
    const wanted = new Set(this.requests.map(({ kernelId }) => kernelId));
    for (const kernelId of this.kernels.keys()) if (!wanted.has(kernelId)) this.kernels.delete(kernelId);
  }

  /** Has what the audio thread lacks of kernels designed. */
  private wantKernels(): void {
    this.designer.want(this.requests.filter(({ kernelId }) => !this.kernels.has(kernelId)));
  }

  private updateTaps(song: Song): void {
    const ids = song.tracks.map((track) => track.id);
    if (ids.length === this.rings.size && ids.every((id) => this.rings.has(id))) return;
    for (const id of this.rings.keys()) if (!ids.includes(id)) this.rings.delete(id);
    for (const trackId of ids) {
      if (this.rings.has(trackId)) continue;
      const ring = () => new SharedArrayBuffer(RING_SAMPLES * 4);
      this.rings.set(trackId, { trackId, before: ring(), after: ring() });
    }
    const rings = [...this.rings.values()];
    this.post({ type: 'taps', rings });
    this.listener.onTaps(rings);
  }

  /** Overhears both sides of a strip as they leave it, or of the mix. @param stripId null for the mix */
  setMonitor(stripId: string | null, left: SharedArrayBuffer, right: SharedArrayBuffer): void {
    this.post({ type: 'monitor', stripId, left, right });
  }

  /** Asks for the gains at this moment of some processors and bands of a strip: `state.gainDb` tells them. */
  watch(stripId: string, ids: readonly string[]): void {
    this.post({ type: 'watch', stripId, ids });
  }

  setLoop(loop: LoopFrames | null): void {
    void this.feeder.setLoop(loop);
    this.post({ type: 'loop', loop });
  }

  /** Starts to play; the browser wants this to come from a gesture. @throws Error what is in the way, and what to do */
  async play(): Promise<void> {
    if (!this.context) throw new Error(noSound('the browser gave none'));
    void this.feeder.playing();
    this.isWanted = true;
    try {
      // A browser that does not want to resume leaves the promise open for ever.
      await Promise.race([this.context.resume(), new Promise((done) => setTimeout(done, RESUME_MS))]);
      if (this.context.state !== 'running') throw new Error(SUSPENDED);
      await this.openNode();
    } catch (error) {
      if (!this.isWanted) return;
      this.isWanted = false;
      throw error;
    }
    if (this.isWanted) this.post({ type: 'play' });
  }

  stop(): void {
    this.isWanted = false;
    this.post({ type: 'stop' });
  }

  /** Asks again for what could not be had: sound, and what plays it. */
  bringMissing(): void {
    void this.feeder.again();
    this.openNode().catch((error: Error) => this.listener.onError(error.message));
  }

  /** Why sound came too late just now, in words that follow a colon. */
  whyLate(): Promise<string> {
    return this.feeder.whyLate();
  }

  /** The frame that is heard at this moment: sound takes a while to the ear, a quarter of a second through wireless headphones. */
  heardFrame(): number {
    if (this.context) {
      const { baseLatency, outputLatency, sampleRate } = this.context;
      // Not every browser tells both.
      const seconds = Math.min(MOST_LATENCY_SECONDS, (baseLatency || 0) + (outputLatency || 0));
      this.state.outputLatency = Math.round(seconds * sampleRate);
    }
    return this.state.heard;
  }

  seek(frame: number): void {
    void this.feeder.seek(frame);
    this.post({ type: 'seek', frame });
    // The audio thread sleeps until the first gesture; the page must see the position all the same.
    if (this.context?.state !== 'running') this.state.movePosition(frame);
  }

  close(): void {
    this.linearPhase.terminate();
    this.feedingWorker.terminate();
    this.node?.disconnect();
    this.isWanted = false;
    void this.context?.close();
  }
}
