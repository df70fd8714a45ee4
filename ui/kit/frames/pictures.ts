/** What is taken in the next frame, before anything is drawn in it. */
const taking = new Set<() => void>();
/** What is drawn outside React waits for the next frame, and is drawn once in it however often it was asked for. */
const drawing = new Set<() => void>();
let frame = 0;

/** Takes something, as a move of the pointer, at the next frame, which shows it. @param take the same function for the same thing */
export function takeInFrame(take: () => void): void {
  taking.add(take);
  frame ||= requestAnimationFrame(drawFrame);
}

/** @param draw the same function for the same picture */
export function drawInFrame(draw: () => void): void {
  drawing.add(draw);
  frame ||= requestAnimationFrame(drawFrame);
}

/** Neither takes nor draws any more: what it is about is gone. */
export function forgetInFrame(work: () => void): void {
  taking.delete(work);
  drawing.delete(work);
}

function drawFrame(): void {
  frame = 0;
  runAll(taking);
  runAll(drawing);
}

/** What is asked for meanwhile comes in the next frame. */
function runAll(works: Set<() => void>): void {
  const all = [...works];
  works.clear();
  for (const work of all) {
    try {
      work();
    } catch (error) {
      // The others have their turn all the same.
      reportError(error);
    }
  }
}
