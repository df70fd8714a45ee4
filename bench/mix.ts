import { performance } from 'node:perf_hooks';
import { seededRandom } from '@/core/formats';
import { SPECTRUM_BANDS, STEPS_PER_SECOND, wholeRows } from '@/core/measure';
import { MixMeasure, mixTracks, type ClaimingTrack } from '@/core/mix';
import { firstEqualizer, applyEdit, type Song } from '@/core/song';
import { benchSong, median, percentile, table } from './support';

/**
 * Clearances and overlaps of sixty tracks over a loop of 30 s: the first time, and after an edit of one track, which is what a drag
 * asks for. Wanted after an edit: at most 50 ms.
 */
const TRACKS = 60;
const SECONDS = 30;
const EDITS = 60;
const RATE = 48000;

/** Levels of a made-up recording: two octaves of its own that come and go. */
function levelsOf(track: number): Uint8Array {
  const random = seededRandom(track + 1);
  const levels = new Uint8Array(SECONDS * STEPS_PER_SECOND * SPECTRUM_BANDS);
  const first = Math.floor((0.5 + random() / 2) * 80) + 5;
  for (let step = 0; step < SECONDS * STEPS_PER_SECOND; step++)
    for (let band = 0; band < SPECTRUM_BANDS; band++) {
      const distance = Math.max(0, Math.abs(band - first) - 14);
      const plays = Math.sin(step / (7 + track)) > -0.4;
      levels[step * SPECTRUM_BANDS + band] = Math.max(0, (plays ? 160 : 90) - 3 * distance + 12 * random());
    }
  return levels;
}

let song: Song = benchSong(TRACKS, 6, { audioId: 'a'.repeat(64), channels: 2, lengthFrames: SECONDS * RATE });
song = {
  ...song,
  tracks: song.tracks.map((track, i) => ({
    ...track,
    audioId: i.toString(16).padStart(64, '0'),
    claims: [{ lowHz: 200 + 40 * i, highHz: 800 + 100 * i }],
  })),
};
const levels = Object.fromEntries(song.tracks.map((track, i) => [track.audioId, [wholeRows(levelsOf(i))]]));
const claiming = (of: Song): ClaimingTrack[] =>
  mixTracks(of).map((track, i) => ({ ...track, claims: of.tracks[i].claims }));
const range = { from: 0, to: SECONDS * STEPS_PER_SECOND };

const measure = new MixMeasure();
const timed = (work: () => void) => {
  const began = performance.now();
  work();
  return performance.now() - began;
};
const first = timed(() => measure.update(claiming(song), levels, range));
const gains: number[] = [];
const updates: number[] = [];
for (let i = 0; i < EDITS; i++) {
  const track = song.tracks[(i * 7) % TRACKS];
  const equalizer = firstEqualizer(track)!;
  song = applyEdit(song, {
    kind: 'band.set',
    stripId: track.id,
    equalizerId: equalizer.id,
    bandId: equalizer.bands[0].id,
    changes: { frequencyHz: 100 + 20 * i },
  });
  let tracks: ClaimingTrack[] = [];
  gains.push(timed(() => (tracks = claiming(song))));
  updates.push(timed(() => measure.update(tracks, levels, range)));
}
const figure = (value: number) => value.toFixed(1);
console.log(
  table([
    [`${TRACKS} tracks, a loop of ${SECONDS} s`, 'median, ms', '95 %, ms'],
    ['the first time', figure(first), ''],
    ['after an edit: gains, in the page', figure(median(gains)), figure(percentile(gains, 0.95))],
    [
      'after an edit: clearances and overlaps, in the worker',
      figure(median(updates)),
      figure(percentile(updates, 0.95)),
    ],
  ]),
);
