import type { SongPart } from '@/core/song';
import { DAY } from '../../kit/theme/tokens';
import { drawLoopBracket, drawMark, drawParts, drawPlayhead } from './draw-parts';
import { stripPaper, type StripPaper } from './strip-paper';

const SHOWN = { from: 10, to: 20 };
const [WIDE, HIGH] = [1000, 60];

/** What is drawn: rectangles, and texts with the stretch to which they are cut. */
function drawn(draw: (paper: StripPaper) => void) {
  const rects: { colour: string; at: number[] }[] = [];
  const texts: { text: string; x: number; cut: number[] }[] = [];
  let cut: number[] = [];
  const context = {
    fillStyle: '',
    font: '',
    save: () => {},
    restore: () => {},
    beginPath: () => {},
    clip: () => {},
    rect: (...at: number[]) => (cut = at),
    fillRect: (...at: number[]) => rects.push({ colour: context.fillStyle, at }),
    fillText: (text: string, x: number) => texts.push({ text, x, cut: [cut[0], cut[0] + cut[2]] }),
  };
  draw(stripPaper(context as unknown as CanvasRenderingContext2D, SHOWN, WIDE, HIGH, DAY));
  return { rects, texts };
}

const part = (name: string, startSeconds: number): SongPart => ({ name, startSeconds });

test('a part’s name stands behind its line, stays in sight while the part lasts, and ends where the next begins', () => {
  const parts = [part('over', 2), part('begun', 6), part('here', 14), part('later', 18), part('out', 20)];
  const { rects, texts } = drawn((paper) => drawParts(paper, parts));
  expect(texts).toEqual([
    { text: 'begun', x: 6, cut: [-400, 400] },
    { text: 'here', x: 406, cut: [400, 800] },
    { text: 'later', x: 806, cut: [800, 1000] },
  ]);
  expect(rects.map(({ at }) => at[0])).toEqual([-400, 400, 800]);
});

test('the loop is a bracket from its start to its end, in another colour while it is off', () => {
  const loop = { startSeconds: 12, endSeconds: 15, enabled: true };
  const { rects } = drawn((paper) => drawLoopBracket(paper, loop));
  expect(rects).toEqual([
    { colour: DAY.claim, at: [200, 56, 300, 3] },
    { colour: DAY.claim, at: [200, 51, 2.5, 8] },
    { colour: DAY.claim, at: [497.5, 51, 2.5, 8] },
  ]);
  const off = drawn((paper) => drawLoopBracket(paper, { ...loop, enabled: false }));
  expect(new Set(off.rects.map(({ colour }) => colour))).toEqual(new Set([DAY.soft]));
});

test('playhead and mark stand at their times', () => {
  const playhead = drawn((paper) => drawPlayhead(paper, 13));
  expect(playhead.rects).toEqual([{ colour: DAY.accent, at: [299, 0, 2, HIGH] }]);
  const { rects } = drawn((paper) => drawMark(paper, 11));
  expect(rects.length).toBeGreaterThan(3);
  expect(new Set(rects.map(({ at }) => at[0]))).toEqual(new Set([100]));
});
