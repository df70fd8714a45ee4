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

/** What others look at while a song plays: rings of samples, all of one length, that are written at the same place. */
export class Overhearing {
  private taps: ReadonlyMap<string, Tap> = new Map();
  private monitor: Monitor | null = null;
  /** Place in the rings where the next sample is written; counts on for ever. */
  position = 0;

  setTaps(taps: ReadonlyMap<string, Tap>): void {
    this.taps = new Map(taps);
  }

  setMonitor(monitor: Monitor | null): void {
    this.monitor = monitor;
  }

  tapOf(trackId: string): Tap | undefined {
    return this.taps.get(trackId);
  }

  /** @param stripId null for the mix */
  isWatched(stripId: string | null): boolean {
    return this.monitor !== null && this.monitor.stripId === stripId;
  }

  /** @param right null for mono */
  writeTap(ring: Float32Array, left: Float64Array, right: Float64Array | null, frames: number): void {
    const mask = ring.length - 1;
    for (let n = 0; n < frames; n++) ring[(this.position + n) & mask] = right ? (left[n] + right[n]) / 2 : left[n];
  }

  /** Call it for a strip that is watched. */
  writeMonitor(left: ArrayLike<number>, right: ArrayLike<number>, frames: number): void {
    const rings = this.monitor!;
    const mask = rings.left.length - 1;
    for (let n = 0; n < frames; n++) {
      const place = (this.position + n) & mask;
      rings.left[place] = left[n];
      rings.right[place] = right[n];
    }
  }
}
