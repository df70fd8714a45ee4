/**
 * How much of its time the audio thread needs. Its clock may tick in whole milliseconds only; a quantum shorter than a tick
 * is then counted as a tick or as nothing, and the mean over a second is still right.
 */
const now: () => number = typeof performance === 'undefined' ? () => Date.now() : () => performance.now();

export class LoadMeter {
  value = 0;
  private started = 0;
  private busyMs = 0;
  private frames = 0;

  constructor(private readonly rateHz: number) {}

  begin(): void {
    this.started = now();
  }

  end(frames: number): void {
    this.busyMs += now() - this.started;
    this.frames += frames;
    if (this.frames < this.rateHz) return;
    this.value = this.busyMs / ((this.frames / this.rateHz) * 1000);
    this.busyMs = 0;
    this.frames = 0;
  }
}
