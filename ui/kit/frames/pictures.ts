/** What is drawn outside React waits for the next frame, and is drawn once in it however often it was asked for. */
const waiting = new Set<() => void>();
let frame = 0;

/** @param draw the same function for the same picture */
export function drawInFrame(draw: () => void): void {
  waiting.add(draw);
  frame ||= requestAnimationFrame(drawWaiting);
}

/** What waits is not drawn any more: its place is gone. */
export function forgetDrawing(draw: () => void): void {
  waiting.delete(draw);
}

/** Draws at once what waits: for who changes something in the midst of a frame, so that this very frame shows it. */
export function drawWaiting(): void {
  cancelAnimationFrame(frame);
  frame = 0;
  const pictures = [...waiting];
  waiting.clear();
  for (const draw of pictures) {
    try {
      draw();
    } catch (error) {
      // The others are drawn all the same.
      reportError(error);
    }
  }
}
