import { batch, groupsOf, type Edit, type Song, type Track } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { songOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { proposedClaim } from '../../window/sound/mix';
import { addClaim } from './claim-edits';

/** The tracks and groups that claim nothing yet. */
export const claimless = (song: Song): string[] =>
  [...song.tracks, ...groupsOf(song).map(({ bus }) => bus)]
    .filter(({ claims }) => claims.length === 0)
    .map(({ id }) => id);

/** Proposes claims for strips, from what they are and what is heard of them, and keeps them as one step. */
export async function proposeClaims(desk: Desk, stripIds: readonly string[]): Promise<void> {
  const edits: Edit[] = [];
  const song = songOf(desk);
  const strips: Pick<Track, 'id' | 'name' | 'claims'>[] = [...song.tracks, ...song.buses];
  for (const strip of strips.filter(({ id }) => stripIds.includes(id))) {
    const part = song.tracks.find(({ id }) => id === strip.id)?.part;
    const claim = await proposedClaim(desk, strip.id, part || strip.name);
    const edit = claim && addClaim(strip, claim.lowHz, claim.highHz);
    if (edit) edits.push(edit);
  }
  const { edit } = useSongStore.of(desk);
  const where = song.loop?.enabled ? 'the loop' : 'the song';
  if (edits.length === 0) tell(desk, `None of them plays in ${where}, so no claim can be proposed.`);
  else edit(batch(edits), edits.length === 1 ? 'Propose a claim' : 'Propose claims');
}
