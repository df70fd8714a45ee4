/** A wheel that counts in lines, as one does without pixels. */
const LINE_PIXELS = 40;
const LINES = 1;
/** A notch of a wheel is about as far. */
const NOTCH_PIXELS = 100;
/** What comes later is another turn. */
const PAUSE_MS = 200;

type Turn = Pick<WheelEvent, 'deltaX' | 'deltaY' | 'deltaMode'>;

/** How far a wheel was turned, or two fingers moved on a touchpad, in CSS pixels. */
export function wheelPixels({ deltaX, deltaY, deltaMode }: Turn): { dx: number; dy: number } {
  const scale = deltaMode === LINES ? LINE_PIXELS : 1;
  return { dx: deltaX * scale, dy: deltaY * scale };
}

/** Steps of a wheel: one for each notch. A touchpad, which tells of every few pixels, gives one at once and then one for as far as a notch. */
export class WheelSteps {
  private pixels = 0;
  private before = -Infinity;

  /** @returns −1 away from one, 1 towards one, 0 as long as it is not a step */
  turn(event: Turn & Pick<WheelEvent, 'timeStamp'>): -1 | 0 | 1 {
    const { dx, dy } = wheelPixels(event);
    // With Shift some systems turn the wheel sideways.
    const turned = dy || dx;
    const isFirst = event.timeStamp - this.before > PAUSE_MS || Math.sign(turned) === -Math.sign(this.pixels);
    this.before = event.timeStamp;
    if (turned === 0) return 0;
    this.pixels = isFirst ? turned : this.pixels + turned;
    if (!isFirst && Math.abs(this.pixels) < NOTCH_PIXELS) return 0;
    this.pixels = 0;
    return turned < 0 ? -1 : 1;
  }
}
