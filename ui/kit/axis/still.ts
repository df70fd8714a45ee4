/** True where two lists hold the same things in the same order. */
export const isSameList = (some: readonly unknown[], others: readonly unknown[]): boolean =>
  some.length === others.length && some.every((thing, i) => Object.is(thing, others[i]));

/** How often typefaces have come: words that were drawn before stand in others. */
let typefaces = 0;
if (typeof document !== 'undefined') document.fonts?.addEventListener('loadingdone', () => typefaces++);

/**
 * A picture that rests: drawn where it belongs while it changes from one time to the next, and kept as a bitmap once it has been the same
 * twice.
 */
export class Still {
  private bitmap: HTMLCanvasElement | null = null;
  private from: readonly unknown[] | null = null;

  /**
   * Puts the picture on a canvas whose transform is a translation times the device's pixel ratio.
   * @param place where, and how large, CSS pixels: what is drawn beyond it is cut off
   * @param from everything that the picture depends on
   * @param paint draws it at the origin
   */
  draw(
    target: CanvasRenderingContext2D,
    { x = 0, y, width, height }: { x?: number; y: number; width: number; height: number },
    from: readonly unknown[],
    paint: (context: CanvasRenderingContext2D) => void,
  ): void {
    const ratio = window.devicePixelRatio || 1;
    const now = [ratio, width, height, typefaces, ...from];
    if (!this.from || !isSameList(this.from, now)) {
      this.from = now;
      this.bitmap = null;
      target.save();
      target.translate(x, y);
      target.beginPath();
      target.rect(0, 0, width, height);
      target.clip();
      paint(target);
      target.restore();
      return;
    }
    this.bitmap ??= painted(width, height, ratio, paint);
    // On whole pixels of the device, so that it is as sharp as when it was drawn.
    const { e, f } = target.getTransform();
    target.save();
    target.setTransform(1, 0, 0, 1, Math.round(e + x * ratio), Math.round(f + y * ratio));
    target.drawImage(this.bitmap, 0, 0);
    target.restore();
  }
}

function painted(
  width: number,
  height: number,
  ratio: number,
  paint: (context: CanvasRenderingContext2D) => void,
): HTMLCanvasElement {
  const canvas = document.createElement('canvas');
  canvas.width = Math.max(1, Math.round(width * ratio));
  canvas.height = Math.max(1, Math.round(height * ratio));
  const context = canvas.getContext('2d')!;
  context.setTransform(ratio, 0, 0, ratio, 0, 0);
  paint(context);
  return canvas;
}
