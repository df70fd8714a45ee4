import { closeSync, openSync, readSync, fstatSync } from 'node:fs';
import { PieceWriter, type SoundBlock } from './write-wav';

const READ_FRAMES = 1 << 16;

/** A sound that waits on disk, as interleaved 32-bit floats without a header. */
export class FloatFile {
  readonly frames: number;
  private readonly file: number;
  private readonly piece: Float32Array;
  /** The frames that the piece holds. */
  private from = 0;
  private until = 0;

  constructor(
    file: string,
    private readonly channels: number,
  ) {
    this.file = openSync(file, 'r');
    this.frames = Math.floor(fstatSync(this.file).size / (4 * channels));
    this.piece = new Float32Array(READ_FRAMES * channels);
  }

  /** @param file must not exist */
  static async write(file: string, blocks: Iterable<SoundBlock>): Promise<void> {
    const out = await PieceWriter.open(file);
    try {
      for (const { samples, frames } of blocks) {
        const values = new Float32Array(frames * samples.length);
        samples.forEach((side, c) => {
          for (let n = 0; n < frames; n++) values[n * samples.length + c] = side[n];
        });
        await out.add(new Uint8Array(values.buffer));
      }
      await out.finish();
    } finally {
      await out.close();
    }
  }

  /** What lies outside is silence. @param sides an array for each channel */
  read(frame: number, count: number, sides: readonly Float64Array[]): void {
    for (let n = 0; n < count; n++) {
      const at = frame + n;
      if (at < 0 || at >= this.frames) {
        for (const side of sides) side[n] = 0;
        continue;
      }
      if (at < this.from || at >= this.until) this.load(at);
      for (let c = 0; c < this.channels; c++) sides[c][n] = this.piece[(at - this.from) * this.channels + c];
    }
  }

  private load(at: number): void {
    const frameBytes = 4 * this.channels;
    const bytes = readSync(this.file, this.piece, 0, READ_FRAMES * frameBytes, at * frameBytes);
    this.from = at;
    this.until = at + Math.floor(bytes / frameBytes);
  }

  close(): void {
    closeSync(this.file);
  }
}
