import fc from 'fast-check';
import { compileSong, inLongerBlocks, renderMix, songKernels, StripEars, type MixRange } from '../engine';
import { anySong, apartDb, channelsOf, LENGTH, offline } from '../engine/testing/any-song';
import { newPassage } from '../passages';
import type { Song } from '../song';
import { heardInMix, partOf } from './parts';

type Sides = [Float64Array, Float64Array];

/** A mix, and what is heard of strips while it is rendered. */
function heard(song: Song, stripIds: readonly string[], range: MixRange = { startFrame: 0, endFrame: LENGTH }) {
  const length = range.endFrame - range.startFrame;
  const silent = (): Sides => [new Float64Array(length), new Float64Array(length)];
  const strips = new Map(stripIds.map((id) => [id, { sides: silent(), frames: 0 }]));
  const ears = new StripEars(
    {
      stripIds: new Set(stripIds),
      hear: (id, left, right) => {
        const strip = strips.get(id)!;
        strip.sides[0].set(left, strip.frames);
        strip.sides[1].set(right, strip.frames);
        strip.frames += left.length;
      },
    },
    range,
  );
  const mix = silent();
  const blocks = renderMix(compileSong(song), channelsOf, songKernels(song), range, ears);
  for (const { left, right, frames, frame } of inLongerBlocks(blocks)) {
    mix[0].set(left.subarray(0, frames), frame - range.startFrame);
    mix[1].set(right.subarray(0, frames), frame - range.startFrame);
  }
  return { mix, strips };
}

test('what is heard of a strip in the mix is what it is by itself, whatever runs in the song and however late', () => {
  fc.assert(
    fc.property(anySong, (song) => {
      const ids = [...song.tracks, ...song.buses].map(({ id }) => id);
      expect(heardInMix(song, ids)).toEqual(ids);
      const { mix, strips } = heard(song, ids);
      expect(apartDb(mix, offline(song))).toBeLessThan(-200);
      for (const [id, { sides, frames }] of strips) {
        expect([id, frames]).toEqual([id, LENGTH]);
        expect(apartDb(sides, offline(partOf(song, id)))).toBeLessThan(-120);
      }
    }),
    { seed: 21, numRuns: 12 },
  );
});

test('of a part of the song that part is heard', () => {
  const [song] = fc.sample(anySong, { seed: 5, numRuns: 1 });
  const [from, to] = [7001, 15002];
  const whole = heard(song, ['a', 'group']).strips;
  const part = heard(song, ['a', 'group'], { startFrame: from, endFrame: to }).strips;
  for (const id of ['a', 'group']) {
    expect(part.get(id)!.frames).toBe(to - from);
    const wanted = whole.get(id)!.sides.map((side) => side.subarray(from, to));
    expect(apartDb(part.get(id)!.sides, wanted)).toBeLessThan(-100);
  }
});

test('what another silences, or is muted, is not as it is by itself', () => {
  const [song] = fc.sample(anySong, { seed: 5, numRuns: 1 });
  const ids = ['a', 'b', 'c', 'd', 'group', 'room'];
  const withStrip = (id: string, changes: object): Song => ({
    ...song,
    tracks: song.tracks.map((track) => (track.id === id ? { ...track, ...changes } : track)),
    buses: song.buses.map((bus) => (bus.id === id ? { ...bus, ...changes } : bus)),
  });
  expect(heardInMix(withStrip('a', { soloed: true }), ids)).toEqual([]);
  expect(heardInMix(withStrip('a', { muted: true }), ids)).toEqual(['b', 'c', 'd', 'group', 'room']);
  expect(heardInMix(withStrip('group', { muted: true }), ids)).toEqual(['a', 'b', 'c', 'd', 'room']);
  const figure = { stripId: 'd', of: 'strip' as const, partId: '', field: 'muted' };
  const passage = { ...newPassage('p', 'Without', 0.1, 0.2), changes: [{ figure, value: true, points: [] }] };
  expect(heardInMix({ ...song, passages: [passage] }, ids)).toEqual([]);
});
