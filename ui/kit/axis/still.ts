/** True where two lists hold the same things in the same order. */
export const isSameList = (some: readonly unknown[], others: readonly unknown[]): boolean =>
  some.length === others.length && some.every((thing, i) => Object.is(thing, others[i]));

/** A picture that rests: kept as a bitmap, and drawn again only when what it was drawn from has changed. */
export class Still {
  private canvas: HTMLCanvasElement | null = null;
  private from: readonly unknown[] | null = null;

  /**
   * Puts the picture on a canvas whose transform is a translation by whole pixels times the device's pixel ratio.
   * @param place where, and how large, CSS pixels
   * @param from everything that the picture depends on
   * @param paint draws it at the origin
   */
  draw(
    target: CanvasRenderingContext2D,
    place: { y: number; width: number; height: number },
    from: readonly unknown[],
    paint: (context: CanvasRenderingContext2D) => void,
  ): void {
    const ratio = window.devicePixelRatio || 1;
    const [wide, high] = [Math.max(1, Math.round(place.width * ratio)), Math.max(1, Math.round(place.height * ratio))];
    const now = [wide, high, ...from];
    this.canvas ??= document.createElement('canvas');
    if (!this.from || !isSameList(this.from, now)) {
      const context = this.canvas.getContext('2d')!;
      this.canvas.width = wide;
      this.canvas.height = high;
      context.setTransform(ratio, 0, 0, ratio, 0, 0);
      paint(context);
      this.from = now;
    }
    target.drawImage(this.canvas, 0, place.y, place.width, place.height);
  }
}
