import weights from './net.json';

/**
 * A small network of layers that are fully connected, each but the last with a leaky rectifier. Its weights were set by a program on
 * recordings of which it was known where they ring: see docs/suspects.md.
 */
interface Layer {
  inputs: number;
  outputs: number;
  /** One byte each, −127 to 127, by input and output; times a scale by output. Base64. */
  weights: string;
  scales: readonly number[];
  biases: readonly number[];
}

/** Below 0 a cell passes this share. */
const LEAK = 0.05;

class Network {
  private readonly layers: readonly { outputs: number; weights: Float32Array; biases: Float32Array }[];

  constructor(layers: readonly Layer[]) {
    this.layers = layers.map(({ inputs, outputs, weights: text, scales, biases }) => {
      const bytes = new Int8Array(Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)).buffer);
      if (bytes.length !== inputs * outputs) throw new Error('net.json: a layer has not as many weights as it should');
      return {
        outputs,
        weights: Float32Array.from(bytes, (byte, i) => byte * scales[i % outputs]),
        biases: Float32Array.from(biases),
      };
    });
  }

  run(inputs: Float32Array): Float32Array {
    let values = inputs;
    this.layers.forEach(({ outputs, weights: all, biases }, layer) => {
      const next = biases.slice();
      for (let i = 0; i < values.length; i++) {
        const value = values[i];
        if (value === 0) continue;
        for (let j = 0, at = i * outputs; j < outputs; j++, at++) next[j] += value * all[at];
      }
      if (layer < this.layers.length - 1) for (let j = 0; j < outputs; j++) if (next[j] < 0) next[j] *= LEAK;
      values = next;
    });
    return values;
  }
}

const finders = weights.finders.map((layers) => new Network(layers));
const fitter = new Network(weights.fitter);
const { mean, deviation } = weights;

const normal = (figures: Float32Array) => figures.map((value, i) => (value - mean[i]) / deviation[i]);

/** How much speaks for a resonance at a place: log odds as the networks see them on average. @param figures see `describe` */
export function evidence(figures: Float32Array): number {
  const inputs = normal(figures);
  return finders.reduce((sum, network) => sum + network.run(inputs)[0], 0) / finders.length;
}

/** The bell that a resonance would be: its Q, its gain in dB, and how far it lies from the place in bands. */
export function fittedBell(figures: Float32Array): { q: number; gainDb: number; shift: number } {
  const [q, gain, shift] = fitter.run(normal(figures));
  return { q: 16 * 2 ** q, gainDb: 10 + 6 * gain, shift: 2 * shift };
}
