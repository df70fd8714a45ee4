import { measureKernel, type Layer } from '../../measure';
import weights from './net.json';

/**
 * A small network of layers that are fully connected, each but the last with a leaky rectifier. Its weights were set by a program on
 * recordings of which it was known where they ring: see docs/suspects.md.
 */
interface StoredLayer {
  inputs: number;
  outputs: number;
  /** One byte each, −127 to 127, by input and output; times a scale by output. Base64. */
  weights: string;
  scales: readonly number[];
  biases: readonly number[];
}

/** Below 0 a cell passes this share. */
const LEAK = 0.05;

/** A layer without the compiled kernel: its reference. */
export const plainLayer =
  (weights: Float32Array, biases: Float32Array): Layer =>
  (inputs) => {
    const cells = biases.slice();
    for (let i = 0, at = 0; i < inputs.length; i++)
      for (let j = 0; j < cells.length; j++, at++) cells[j] += Math.fround(inputs[i] * weights[at]);
    return cells;
  };

class Network {
  private readonly layers: readonly Layer[];

  constructor(layers: readonly StoredLayer[]) {
    this.layers = layers.map(({ inputs, outputs, weights: text, scales, biases }) => {
      const bytes = new Int8Array(Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0)).buffer);
      if (bytes.length !== inputs * outputs) throw new Error('net.json: a layer has not as many weights as it should');
      const all = Float32Array.from(bytes, (byte, i) => byte * scales[i % outputs]);
      const kernel = outputs % 4 === 0 ? measureKernel() : null;
      return kernel?.layer(all, Float32Array.from(biases)) ?? plainLayer(all, Float32Array.from(biases));
    });
  }

  run(inputs: Float32Array): Float32Array {
    const { layers } = this;
    return layers.reduce((values, layer, i) => {
      const cells = layer(values);
      if (i < layers.length - 1) for (let j = 0; j < cells.length; j++) if (cells[j] < 0) cells[j] *= LEAK;
      return cells;
    }, inputs);
  }
}

/** Made when they are needed for the first time, in the memory of the thread's kernel. */
let networks: { finders: readonly Network[]; fitter: Network } | undefined;
const threadNetworks = () =>
  (networks ??= {
    finders: weights.finders.map((layers) => new Network(layers)),
    fitter: new Network(weights.fitter),
  });
const { mean, deviation } = weights;

const normal = (figures: Float32Array) => figures.map((value, i) => (value - mean[i]) / deviation[i]);

/** How much speaks for a resonance at a place: log odds as the networks see them on average. @param figures see `describe` */
export function evidence(figures: Float32Array): number {
  const { finders } = threadNetworks();
  const inputs = normal(figures);
  return finders.reduce((sum, network) => sum + network.run(inputs)[0], 0) / finders.length;
}

/** The bell that a resonance would be: its Q, its gain in dB, and how far it lies from the place in bands. */
export function fittedBell(figures: Float32Array): { q: number; gainDb: number; shift: number } {
  const [q, gain, shift] = threadNetworks().fitter.run(normal(figures));
  return { q: 16 * 2 ** q, gainDb: 10 + 6 * gain, shift: 2 * shift };
}
