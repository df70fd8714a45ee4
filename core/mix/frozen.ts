import {
  channelsOut,
  findStrip,
  songLengthFrames,
  stripChannels,
  type FigureRef,
  type Passage,
  type Song,
  type Track,
} from '../song';
import { stripUpTo } from './observe';
import { feedingPart, feedingStrips } from './strip-measures';

/**
 * A frozen track: its recording through its chain, rendered once from the beginning of the song to its end, and played in their place. Fader, position, sends, mute and
 * solo stay as they are.
 */
export interface FrozenRender {
  /** The recording that the render is. */
  audioId: string;
  channels: 1 | 2;
  lengthFrames: number;
}

/** True for what a render holds of a strip; the rest works on the render as it does on the strip. */
const isInside = ({ of, field }: FigureRef) =>
  of === 'strip' ? field === 'midDb' || field === 'sideDb' : of !== 'send';

/** Passages that change something that is looked for. */
const passagesWith = (song: Song, isWanted: (figure: FigureRef) => boolean): Passage[] =>
  song.passages.filter(({ changes }) => changes.some(({ figure }) => isWanted(figure)));

/** True for what a track's render follows: what lies inside of it, and all of the strips that its chain listens to. */
function follows(song: Song, trackId: string): (figure: FigureRef) => boolean {
  const feeding = feedingStrips(song, trackId);
  return (figure) => (figure.stripId === trackId ? isInside(figure) : feeding.has(figure.stripId));
}

/** Everything that a track's render depends on: the same list of objects as long as it is what the track sounds like. */
export function frozenDependsOn(song: Song, trackId: string): readonly unknown[] {
  const track = song.tracks.find(({ id }) => id === trackId);
  if (!track) return [];
  const { audioId, delayMs, lengthFrames, midDb, sideDb, chain } = track;
  const feeding = feedingStrips(song, trackId);
  const others = [...song.tracks, ...song.buses].filter(({ id }) => id !== trackId && feeding.has(id));
  return [
    ...[song.rateHz, songLengthFrames(song), audioId, delayMs, lengthFrames, midDb, sideDb, ...chain, null],
    ...[...others, null, ...passagesWith(song, follows(song, trackId))],
  ];
}

/** The part of a song that a track's render is made of. */
export function frozenPart(song: Song, trackId: string): Song {
  const isFollowed = follows(song, trackId);
  const passages = song.passages.map((passage) => ({
    ...passage,
    changes: passage.changes.filter(({ figure }) => isFollowed(figure)),
  }));
  return { ...feedingPart(song, [trackId]), passages: passages.filter(({ changes }) => changes.length > 0) };
}

/**
 * The song whose mix is a track's render, on both sides alike where it is mono. Where a mono recording leaves its chain with two sides, they
 * are as they leave the position law: what is played of them is in its place as any stereo recording.
 * @param part of {@link frozenPart}
 */
export function frozenSong(part: Song, trackId: string): Song {
  const track = findStrip(part, trackId)!;
  const song = stripUpTo(part, trackId, track.chain);
  const isOpened = channelsOut(track) !== stripChannels(track);
  return isOpened ? { ...song, master: { ...song.master, gainDb: 0 } } : song;
}

const frozenTracks = new WeakMap<Track, { render: FrozenRender; frozen: Track }>();

function frozenTrack(track: Track, render: FrozenRender): Track {
  const known = frozenTracks.get(track);
  if (known?.render === render) return known.frozen;
  const frozen = { ...track, ...render, delayMs: 0, chain: [], midDb: 0, sideDb: 0 };
  frozenTracks.set(track, { render, frozen });
  return frozen;
}

const thawedPassages = new WeakMap<Passage, { frozen: string; passage: Passage }>();

/** A passage without what it does inside of frozen tracks. @param frozen their ids */
function thawedPassage(passage: Passage, frozen: ReadonlySet<string>): Passage {
  const isRendered = ({ figure }: Passage['changes'][number]) => frozen.has(figure.stripId) && isInside(figure);
  if (!passage.changes.some(isRendered)) return passage;
  const key = [...frozen].join();
  const known = thawedPassages.get(passage);
  if (known?.frozen === key) return known.passage;
  const thawed = { ...passage, changes: passage.changes.filter((change) => !isRendered(change)) };
  thawedPassages.set(passage, { frozen: key, passage: thawed });
  return thawed;
}

/**
 * A song with renders played in place of some tracks and their chains. What does not change stays the same object.
 * @param renders by the tracks' ids; those that are true of this song
 */
export function withFrozen(song: Song, renders: ReadonlyMap<string, FrozenRender>): Song {
  const frozen = new Set(song.tracks.flatMap(({ id }) => (renders.has(id) ? [id] : [])));
  if (frozen.size === 0) return song;
  return {
    ...song,
    tracks: song.tracks.map((track) => (frozen.has(track.id) ? frozenTrack(track, renders.get(track.id)!) : track)),
    passages: song.passages.map((passage) => thawedPassage(passage, frozen)),
  };
}
