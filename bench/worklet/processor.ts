import { Engine } from '@/core/engine/engine';
import type { CompiledSong } from '@/core/engine/compile';

/** Runs a song as the application's audio thread does, and writes down what each quantum cost, by a clock in shared memory. */
class TimedProcessor extends AudioWorkletProcessor {
  private engine: Engine | null = null;
  private frame = 0;
  private quantum = 0;
  private readonly clock: Float64Array;
  private readonly costs: Float64Array;

  constructor(options: { processorOptions: { clock: SharedArrayBuffer; costs: SharedArrayBuffer } }) {
    super();
    this.clock = new Float64Array(options.processorOptions.clock);
    this.costs = new Float64Array(options.processorOptions.costs);
    const noise = Float32Array.from({ length: 65536 }, () => Math.random() - 0.5);
    const source = {
      channels: 2 as const,
      read: (frame: number, count: number, left: Float64Array, right: Float64Array) => {
        const at = frame % 32768;
        for (let n = 0; n < count; n++) left[n] = noise[at + n];
        for (let n = 0; n < count; n++) right[n] = noise[32768 + at + n];
      },
    };
    this.port.onmessage = (event: MessageEvent<CompiledSong>) => {
      this.engine = new Engine(sampleRate, () => source);
      this.engine.setSong(event.data);
    };
  }

  process(_: Float32Array[][], [[left, right]]: Float32Array[][]): boolean {
    if (!this.engine) return true;
    const started = this.clock[0];
    this.engine.process(this.frame, left.length, left, right);
    this.frame += left.length;
    if (this.quantum < this.costs.length) this.costs[this.quantum++] = this.clock[0] - started;
    return true;
  }
}

registerProcessor('timed-engine', TimedProcessor);
