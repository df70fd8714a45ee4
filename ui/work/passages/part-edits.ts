import type { Edit, Song, SongPart } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { documentOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';

/** Two parts never begin at the same place: so near they are the same, seconds. */
const SAME = 0.01;

/** A song has no more. */
const MOST_PARTS = 200;

const tidy = (seconds: number) => Math.max(0, Math.round(seconds * 1e6) / 1e6);
const setParts = (parts: SongPart[]): Edit => ({
  kind: 'song.set',
  changes: { parts: [...parts].sort((first, second) => first.startSeconds - second.startSeconds) },
});

/** A part that begins at a moment; null where one does already. */
export function addPart({ parts }: Song, startSeconds: number, name: string): Edit | null {
  if (parts.some((part) => Math.abs(part.startSeconds - startSeconds) < SAME)) return null;
  return setParts([...parts, { name, startSeconds: tidy(startSeconds) }]);
}

/** A part that begins elsewhere; parts that it passes keep their places. */
export function movePart({ parts }: Song, index: number, startSeconds: number): Edit | null {
  const others = parts.filter((_, i) => i !== index);
  const at = tidy(startSeconds);
  if (
    !parts[index] ||
    parts[index].startSeconds === at ||
    others.some((part) => Math.abs(part.startSeconds - at) < SAME)
  )
    return null;
  return setParts([...others, { ...parts[index], startSeconds: at }]);
}

export const renamePart = ({ parts }: Song, index: number, name: string): Edit | null =>
  parts[index] ? setParts(parts.map((part, i) => (i === index ? { ...part, name } : part))) : null;

export const removePart = ({ parts }: Song, index: number): Edit | null =>
  parts[index] ? setParts(parts.filter((_, i) => i !== index)) : null;

/** The parts of a song with others that lie where none begins yet; null where all do. */
export function takeParts({ parts }: Song, offered: readonly SongPart[]): Edit | null {
  const added = offered.filter(
    ({ startSeconds }) => !parts.some((part) => Math.abs(part.startSeconds - startSeconds) < SAME),
  );
  return added.length > 0 ? setParts([...parts, ...added].slice(0, MOST_PARTS)) : null;
}

/** Does an edit of the song's parts. */
export const editParts = (desk: Desk, make: (song: Song) => Edit | null, label: string): boolean =>
  useSongStore.of(desk).edit(make(documentOf(desk)), label);
