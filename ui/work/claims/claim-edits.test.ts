import fc from 'fast-check';
import { applyEdit, emptySong, newTrack, type Track } from '@/core/song';
import { frequencyScale } from '../../kit/axis/scale';
import { addClaim, changeClaim, dragClaim, removeClaim, stepClaim } from './claim-edits';

const AXIS = frequencyScale(800);
const track: Track = {
  ...newTrack({ audioId: 'a'.repeat(64), channels: 1, lengthFrames: 10 }, { id: 'a', name: 'a', ink: 0 }),
  claims: [{ lowHz: 200, highHz: 800 }],
};
const claimsAfter = (edit: ReturnType<typeof addClaim>, of = track) =>
  applyEdit({ ...emptySong('Test'), tracks: [of] }, edit!).tracks[0].claims;

test('an edge is dragged and stepped by itself, the middle takes both along', () => {
  const tenth = 80;
  const [low] = claimsAfter(dragClaim(track, 0, 'low', tenth, AXIS));
  expect(low.highHz).toBe(800);
  expect(low.lowHz / 200).toBeCloseTo(10 ** 0.3, 2);
  const [whole] = claimsAfter(dragClaim(track, 0, 'whole', tenth, AXIS));
  expect(whole.highHz / whole.lowHz).toBeCloseTo(4, 2);
  const [stepped] = claimsAfter(stepClaim(track, 0, 'high', 1, 'coarse'));
  expect(stepped).toEqual({ lowHz: 200, highHz: 1008 });
});

test('edges never cross, wherever they are dragged', () => {
  fc.assert(
    fc.property(fc.constantFrom('low', 'high', 'whole'), fc.integer({ min: -2000, max: 2000 }), (part, dx) => {
      const [claim] = claimsAfter(dragClaim(track, 0, part, dx, AXIS));
      expect(claim.highHz / claim.lowHz).toBeGreaterThan(1.1);
      expect(claim.lowHz).toBeGreaterThanOrEqual(10);
      expect(claim.highHz).toBeLessThanOrEqual(30000);
    }),
    { seed: 11 },
  );
});

test('a claim is added in either direction, set by figures, and given up; there are at most eight', () => {
  expect(claimsAfter(addClaim(track, 3000, 1000))).toEqual([track.claims[0], { lowHz: 1000, highHz: 3000 }]);
  expect(claimsAfter(changeClaim(track, 0, { lowHz: 900, highHz: 800 }, 'low'))[0].lowHz).toBeLessThan(800);
  expect(claimsAfter(removeClaim(track, 0))).toEqual([]);
  expect(addClaim({ ...track, claims: new Array(8).fill(track.claims[0]) }, 100, 200)).toBeNull();
});
