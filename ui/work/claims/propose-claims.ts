import type { FrequencyBand } from '@/core/measure';
import { batch, groupsOf, type Song, type Track } from '@/core/song';
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

/** Proposes claims for strips, from what they are and what is heard of them, and keeps them as one step. What is claimed meanwhile stays. */
export async function proposeClaims(desk: Desk, stripIds: readonly string[]): Promise<void> {
  const song = songOf(desk);
  const strips: (Pick<Track, 'id' | 'name'> & Partial<Pick<Track, 'part'>>)[] = [...song.tracks, ...song.buses];
  const found = new Map<string, FrequencyBand>();
  for (const { id, part, name } of strips.filter((strip) => stripIds.includes(strip.id))) {
    const claim = await proposedClaim(desk, id, part || name);
    if (claim) found.set(id, claim);
  }
  const edits = claimless(songOf(desk)).flatMap((id) => {
    const claim = found.get(id);
    return (claim && addClaim({ id, claims: [] }, claim.lowHz, claim.highHz)) ?? [];
  });
  const where = song.loop?.enabled ? 'the loop' : 'the song';
  if (found.size === 0) tell(desk, `None of them plays in ${where}, so no claim can be proposed.`);
  else if (edits.length > 0)
    useSongStore.of(desk).edit(batch(edits), edits.length === 1 ? 'Propose a claim' : 'Propose claims');
}
