import { SPECTRUM_BANDS, STEPS_PER_SECOND, type StepRange } from '../measure';
import { settingsAt } from '../passages';
import type { Song } from '../song';
import { heardPowers, type Blocks } from './fields';
import type { GainsOf, MixTrack } from './gains';
import { mixTracks } from './gains';

/** A stretch over which the settings of a song hardly change, and the song as it is there. */
export interface StillSpan extends StepRange {
  song: Song;
}

/** What moves is looked at this many times on its way. */
const WITHIN_MOVES = 6;
/** No more stretches are told apart. */
const MOST_SPANS = 240;

/** A range cut where passages change something: each stretch with the song as it is in its middle, and no passages. In steps of 50 ms. */
export function stillSpans(song: Song, { from, to }: StepRange): StillSpan[] {
  const stepAt = (seconds: number) => Math.min(to, Math.max(from, Math.round(seconds * STEPS_PER_SECOND)));
  const borders = new Set([from, to]);
  for (const { enabled, startSeconds, endSeconds, fadeInSeconds, fadeOutSeconds, changes } of song.passages) {
    if (!enabled || changes.length === 0) continue;
    const moves = (begin: number, end: number) => {
      for (let i = 0; i <= WITHIN_MOVES; i++) borders.add(stepAt(begin + (i * (end - begin)) / WITHIN_MOVES));
    };
    borders.add(stepAt(startSeconds));
    borders.add(stepAt(endSeconds));
    if (changes.some(({ points }) => points.length > 1)) moves(startSeconds, endSeconds);
    if (fadeInSeconds > 0) moves(startSeconds, startSeconds + fadeInSeconds);
    if (fadeOutSeconds > 0) moves(endSeconds - fadeOutSeconds, endSeconds);
  }
  const all = [...borders].sort((a, b) => a - b);
  const apart = Math.ceil((all.length - 1) / MOST_SPANS);
  const kept = all.filter((_, i) => i % Math.max(1, apart) === 0 || i === all.length - 1);
  const plain = song.passages.length === 0 ? song : { ...song, passages: [] };
  return kept.slice(1).map((end, i) => {
    const middle = (kept[i] + end) / 2 / STEPS_PER_SECOND;
    const now = settingsAt(song, middle);
    return { from: kept[i], to: end, song: now === song ? plain : { ...now, passages: [] } };
  });
}

/** Other gains of a track over a stretch. */
export interface GainSpan extends StepRange {
  gains: Float64Array;
}

/** A track as the measures of a mix see it, and where passages give it other gains. */
export interface PassingTrack extends MixTrack {
  spans?: readonly GainSpan[];
}

/** Powers of a track as they reach the ears, with what passages make of them. @param powers see `blockPowers` */
export function passingPowers(
  powers: Float32Array,
  { gains, spans = [] }: Pick<PassingTrack, 'gains' | 'spans'>,
  { from, stepsPerBlock, count }: Blocks,
): Float32Array {
  const heard = heardPowers(powers, gains);
  for (const span of spans) {
    const [first, end] = [span.from, span.to].map((step) => Math.round((step - from) / stepsPerBlock));
    const [begin, until] = [Math.max(0, first), Math.min(count, end)].map((block) => block * SPECTRUM_BANDS);
    for (let i = begin; i < until; i++) heard[i] = powers[i] * span.gains[i % SPECTRUM_BANDS];
  }
  return heard;
}

const isSame = (first: Float64Array, second: Float64Array) => first.every((gain, i) => gain === second[i]);

/** The tracks that a stretch may give other gains: those that differ, and all of them where what they run into does. */
export function changedTracks(song: Song, span: StillSpan): ReadonlySet<string> {
  const isSameWay = span.song.master === song.master && span.song.buses.every((bus, i) => bus === song.buses[i]);
  return new Set(song.tracks.filter((track, i) => !isSameWay || track !== span.song.tracks[i]).map(({ id }) => id));
}

/** The tracks as `mixTracks` sees them, with what passages make of them in a range. */
export function mixTracksOver(song: Song, range: StepRange, of: GainsOf = {}): (MixTrack & { spans: GainSpan[] })[] {
  const base = mixTracks(song, of).map((track) => ({ ...track, spans: [] as GainSpan[] }));
  if (song.passages.length === 0) return base;
  const byId = new Map(base.map((track) => [track.id, track]));
  for (const span of stillSpans(song, range)) {
    const only = changedTracks(song, span);
    if (only.size === 0) continue;
    for (const { id, audioId, gains } of mixTracks(span.song, { ...of, only })) {
      const track = byId.get(id);
      // What was measured behind a chain that reacts is a sound of its own: its levels are not those of the recording.
      if (track?.audioId === audioId && !isSame(gains, track.gains))
        track.spans.push({ from: span.from, to: span.to, gains });
    }
  }
  return base;
}
