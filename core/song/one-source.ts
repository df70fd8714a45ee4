import type { Song, Track } from './schema';

/** Names a pair of recordings, in whatever order they are given. */
export const pairKey = (first: string, second: string): string =>
  first < second ? `${first} ${second}` : `${second} ${first}`;

/** The tracks that are one source with a track: layers of its recording, and other microphones' recordings of it. @param pairs recordings that are one source, see {@link pairKey} */
export const kinOf = ({ tracks }: Pick<Song, 'tracks'>, { id, audioId }: Track, pairs: ReadonlySet<string>): Track[] =>
  tracks.filter(
    (other) => other.id !== id && (other.audioId === audioId || pairs.has(pairKey(audioId, other.audioId))),
  );
