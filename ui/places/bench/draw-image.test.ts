import { frequencyScale } from '../../kit/axis/scale';
import { imageLine, imageY } from './draw-image';

const axis = frequencyScale(900); // 300 pixels a decade

test('+1 stands at the top, −1 at the bottom, 0 in the middle; a band that is silent leaves a gap', () => {
  const height = 220;
  expect([1, 0, -1].map((value) => imageY(height, value))).toEqual([10, 110, 210]);
  const bands = [
    { hz: 20, correlation: 1, sideShare: 0 },
    { hz: 200, correlation: 0, sideShare: 0.5 },
    { hz: 500, correlation: null, sideShare: null },
    { hz: 2000, correlation: -1, sideShare: 1 },
  ];
  const lines = imageLine({ axis, height, bands }, 'correlation');
  expect(lines.map((line) => line.map(({ x, y }) => [Math.round(x), y]))).toEqual([
    [
      [0, 10],
      [300, 110],
    ],
    [[600, 210]],
  ]);
  expect(imageLine({ axis, height, bands }, 'sideShare')[0][1].y).toBe(imageY(height, 0.5));
  expect(imageLine({ axis, height, bands: null }, 'correlation')).toEqual([]);
});
