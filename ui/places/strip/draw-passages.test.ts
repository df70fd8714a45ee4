import { newPassage } from '@/core/passages';
import type { Passage } from '@/core/song';
import { DAY } from '../../kit/theme/tokens';
import { BAR_HEIGHT, drawPassages, passagesWithin, rowsOf, rowTop } from './draw-passages';
import { stripPaper } from './strip-paper';

const passage = (id: string, from: number, to: number, changes: Partial<Passage> = {}): Passage => ({
  ...newPassage(id, id, from, to),
  ...changes,
});

/** The corners of each bar that is drawn, and its colour, in the order in which they are drawn. */
function drawn(passages: Passage[], openId: string | null = null) {
  const bars: { colour: string; corners: [number, number][] }[] = [];
  let corners: [number, number][] = [];
  const context = {
    fillStyle: '',
    globalAlpha: 1,
    beginPath: () => (corners = []),
    moveTo: (x: number, y: number) => corners.push([x, y]),
    lineTo: (x: number, y: number) => corners.push([x, y]),
    fill: () => bars.push({ colour: context.fillStyle, corners }),
  };
  const picture = { passages, rows: rowsOf(passages), openId };
  drawPassages(
    stripPaper(context as unknown as CanvasRenderingContext2D, { from: 10, to: 20 }, 1000, 60, DAY),
    picture,
  );
  return bars;
}

test('a passage is drawn from its beginning to its end, slanted as it fades; what is out of sight is not', () => {
  const [bar, ...others] = drawn([passage('a', 12, 15, { fadeInSeconds: 1, fadeOutSeconds: 0.5 }), passage('b', 2, 9)]);
  expect(others).toEqual([]);
  const top = rowTop(0);
  expect(bar.corners).toEqual([
    [200, top + BAR_HEIGHT],
    [300, top],
    [450, top],
    [500, top + BAR_HEIGHT],
  ]);
});

test('what overlaps stands in rows, the open one in its colour and on top, what is off in another', () => {
  const bars = drawn([passage('a', 11, 15), passage('b', 12, 16, { enabled: false }), passage('c', 17, 18)], 'a');
  expect(bars.map(({ colour }) => colour)).toEqual([DAY.rule, DAY.ink, DAY.accent]);
  expect(bars.map(({ corners }) => corners[1][1])).toEqual([rowTop(1), rowTop(0), rowTop(0)]);
});

test('rows that are filled are shared; a passage that only reaches in is in sight', () => {
  const many = Array.from({ length: 5 }, (_, i) => passage(`p${i}`, i * 0.1, 9));
  expect([...rowsOf(many).values()]).toEqual([0, 1, 2, 2, 2]);
  expect(passagesWithin(many, { from: 8.9, to: 20 })).toHaveLength(5);
  expect(passagesWithin(many, { from: 9, to: 20 })).toHaveLength(0);
});
