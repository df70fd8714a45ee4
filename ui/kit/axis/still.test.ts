/** @jest-environment jsdom */
// Typefaces come when the test says so, which the module hears from its beginning.
const fonts = new EventTarget();
Object.defineProperty(document, 'fonts', { value: fonts });
// eslint-disable-next-line @typescript-eslint/no-require-imports
const { Still } = require('./still') as typeof import('./still');

/** A canvas' context that notes what is done to it. */
function noting() {
  const done: string[] = [];
  const context = new Proxy({} as CanvasRenderingContext2D, {
    get: (_, name) => (name === 'getTransform' ? () => ({ e: 0, f: 32.5 }) : note(String(name))),
    set: () => true,
  });
  const note =
    (name: string) =>
    (...values: unknown[]) =>
      void done.push(name === 'setTransform' ? `to ${values.slice(4).join(' ')}` : name);
  return { done, context };
}

test('what changes is drawn where it belongs, what stays is a bitmap from the second time on', () => {
  const bitmap = noting();
  HTMLCanvasElement.prototype.getContext = (() => bitmap.context) as unknown as HTMLCanvasElement['getContext'];
  const { done, context } = noting();
  const still = new Still();
  const paintings: string[] = [];
  const draw = (from: number, height = 20) => {
    done.length = 0;
    still.draw(context, { y: 5, width: 100, height }, [from], (at) =>
      paintings.push(at === context ? 'place' : 'bitmap'),
    );
    return done.filter((name) => name === 'clip' || name === 'drawImage');
  };
  expect(draw(1)).toEqual(['clip']);
  expect(paintings.splice(0)).toEqual(['place']);
  expect(draw(1)).toEqual(['drawImage']);
  expect(paintings.splice(0)).toEqual(['bitmap']);
  expect(draw(1)).toEqual(['drawImage']);
  expect(paintings).toEqual([]);
  expect(draw(2)).toEqual(['clip']);
  expect(draw(3)).toEqual(['clip']);
  expect(draw(3, 21)).toEqual(['clip']);
  expect(paintings.splice(0)).toEqual(['place', 'place', 'place']);
  draw(3, 21);
  // Where pixels of the page are not whole ones of the device.
  expect(done).toContain('to 0 38');
  // Words may stand in another typeface now.
  expect(draw(3, 21)).toEqual(['drawImage']);
  fonts.dispatchEvent(new Event('loadingdone'));
  expect(draw(3, 21)).toEqual(['clip']);
});
