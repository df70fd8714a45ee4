/** What the scope of an audio worklet offers; the DOM's own types leave it out. */
declare const sampleRate: number;
declare class AudioWorkletProcessor {
  readonly port: MessagePort;
  constructor(options?: { processorOptions?: unknown });
}
declare function registerProcessor(name: string, processor: new (options: never) => AudioWorkletProcessor): void;
