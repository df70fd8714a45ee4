import { expose } from 'comlink';
import { LiveSpectrum } from '@/core/measure/live-spectrum';

/** Computes the live spectra of the tracks from the rings that the audio thread writes. Thin: the measure is in core/. */
interface Ring {
  samples: Float32Array;
  spectrum: LiveSpectrum;
}

const rings = new Map<string, Ring>();

const liveSpectra = {
  /** @param rateHz of the song; @param buffers rings by name, each a power of two of 32-bit samples */
  setRings(rateHz: number, buffers: Record<string, SharedArrayBuffer>): void {
    rings.clear();
    for (const [name, buffer] of Object.entries(buffers)) {
      rings.set(name, { samples: new Float32Array(buffer), spectrum: new LiveSpectrum(rateHz) });
    }
  },

  /**
   * @param names which rings
   * @param tapPosition samples written so far
   * @returns for each name 120 levels, dB relative to a full-scale sine
   */
  measure(names: string[], tapPosition: number): Record<string, Float32Array> {
    return Object.fromEntries(
      names.flatMap((name) => {
        const ring = rings.get(name);
        return ring ? [[name, ring.spectrum.measure(ring.samples, tapPosition)]] : [];
      }),
    );
  },
};

export type LiveSpectra = typeof liveSpectra;

expose(liveSpectra);
