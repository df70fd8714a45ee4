import { LiveSpectrum, type SpectrumSpeed } from '@/core/measure/live-spectrum';
import { offer } from './offer';

/** Computes the live spectra of the tracks from the rings that the audio thread writes. Thin: the measure is in core/. */
interface Ring {
  samples: Float32Array;
  spectrum: LiveSpectrum;
}

/** How levels follow the sound, and whose highest levels are held. */
export interface Ballistics {
  speed: SpectrumSpeed;
  held: readonly string[];
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
  measure(names: readonly string[], tapPosition: number, { speed, held }: Ballistics) {
    const levels: Record<string, Float32Array> = {};
    const highest: Record<string, Float32Array> = {};
    for (const name of names) {
      const ring = rings.get(name);
      if (!ring) continue;
      levels[name] = ring.spectrum.measure(ring.samples, tapPosition, speed);
      if (held.includes(name)) highest[name] = ring.spectrum.highest;
    }
    return { levels, held: highest };
  },

  forgetHeld(): void {
    for (const { spectrum } of rings.values()) spectrum.forgetHighest();
  },
};

export type LiveSpectra = typeof liveSpectra;

offer(liveSpectra);
