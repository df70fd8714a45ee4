import { withChanges } from '@/core/engine/changes';
import type { CompiledSong } from '@/core/engine/compile';
import { Engine } from '@/core/engine/engine';
import type { Tap } from '@/core/engine/overhearing';
import { Player } from '@/core/engine/player';
import { PeakMeter } from '@/core/measure/meter';
import { PROCESSOR_NAME, type EngineMessage } from '../messages';
import { SharedRecording, slotsOf } from '../sample-memory';
import { MOST_BUSES, MOST_TRACKS, MOST_WATCHED, SharedState } from '../shared-state';
import { LoadMeter } from './load-meter';

/**
 * The audio thread: the engine and its transport behind one node. `process` allocates nothing; messages may.
 */
class EngineProcessor extends AudioWorkletProcessor {
  private readonly state: SharedState;
  private readonly slots: readonly Float32Array[];
  private readonly recordings = new Map<string, SharedRecording>();
  private readonly engine: Engine;
  private readonly player: Player;
  private readonly load = new LoadMeter(sampleRate);
  private readonly masterMeter = new PeakMeter(sampleRate);
  private readonly trackMeters = Array.from({ length: MOST_TRACKS }, () => new PeakMeter(sampleRate));
  private readonly busMeters = Array.from({ length: MOST_BUSES }, () => new PeakMeter(sampleRate));
  private tracks = 0;
  private buses = 0;
  /** Whose gains at this moment the page asks for. */
  private watched: { stripId: string; ids: readonly string[] } = { stripId: '', ids: [] };
  private song: CompiledSong | null = null;

  constructor(options: { processorOptions: { state: SharedArrayBuffer; samples: SharedArrayBuffer } }) {
    super();
    this.state = new SharedState(options.processorOptions.state);
    this.slots = slotsOf(options.processorOptions.samples);
    this.engine = new Engine(sampleRate, (track) => this.recordings.get(track.audioId));
    this.player = new Player(this.engine);
    this.port.onmessage = (event: MessageEvent<EngineMessage>) => this.receive(event.data);
  }

  private receive(message: EngineMessage): void {
    switch (message.type) {
      case 'song':
        this.setSong(message.song);
        break;
      case 'changes':
        if (this.song) this.setSong(withChanges(this.song, message.changes));
        break;
      case 'kernel':
        this.engine.addKernel(message.kernelId, message.kernel);
        break;
      case 'play':
        this.player.play();
        break;
      case 'stop':
        this.player.stop();
        break;
      case 'seek':
        this.player.seek(message.frame);
        break;
      case 'loop':
        this.player.setLoop(message.loop);
        break;
      case 'recording':
        this.recordings.set(
          message.audioId,
          new SharedRecording(message.channels, message.lengthFrames, message.table, this.slots),
        );
        this.engine.refreshSources();
        break;
      case 'forget':
        this.recordings.delete(message.audioId);
        this.engine.refreshSources();
        break;
      case 'monitor':
        this.engine.setMonitor({
          stripId: message.stripId,
          left: new Float32Array(message.left),
          right: new Float32Array(message.right),
        });
        break;
      case 'watch':
        this.watched = { stripId: message.stripId, ids: message.ids.slice(0, MOST_WATCHED) };
        break;
      case 'taps':
        this.engine.setTaps(
          new Map(
            message.rings.map(({ trackId, before, after }): [string, Tap] => [
              trackId,
              { before: before && new Float32Array(before), after: new Float32Array(after) },
            ]),
          ),
        );
        break;
    }
  }

  private setSong(song: CompiledSong): void {
    this.song = song;
    this.player.setSong(song);
    this.state.countSong();
    this.tracks = Math.min(MOST_TRACKS, song.tracks.length);
    this.buses = Math.min(MOST_BUSES, song.buses.length);
  }

  process(_: Float32Array[][], outputs: Float32Array[][]): boolean {
    const left = outputs[0][0];
    const right = outputs[0][1];
    const frames = left.length;
    this.load.begin();
    this.player.process(frames, left, right);
    this.load.end(frames);
    this.masterMeter.push(this.engine.masterLevels.peak, frames);
    for (let i = 0; i < this.tracks; i++) {
      this.trackMeters[i].push(this.player.isResting ? 0 : this.engine.trackLevels(i).peak, frames);
      this.state.writeTrack(i, this.trackMeters[i].value);
    }
    for (let i = 0; i < this.buses; i++) {
      this.busMeters[i].push(this.player.isResting ? 0 : this.engine.busLevels(i).peak, frames);
      this.state.writeBus(i, this.busMeters[i].value);
    }
    const { stripId, ids } = this.watched;
    for (let i = 0; i < ids.length; i++)
      this.state.writeGain(i, this.player.isResting ? 0 : this.engine.gainDbOf(stripId, ids[i]));
    this.state.writeLate(this.engine.lateCount);
    this.state.write(
      this.player.position,
      this.player.heardPosition(this.state.outputLatency),
      this.player.isPlaying,
      this.load.value,
      this.masterMeter.value,
      this.engine.tapPosition,
    );
    return true;
  }
}

registerProcessor(PROCESSOR_NAME, EngineProcessor);
