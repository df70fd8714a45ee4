import { batch, type Edit } from '@/core/song';
import type { Desk } from '../../window/desk/desk';
import { chosenStrips } from '../../window/song/selection';
import { useSongStore } from '../../window/song/song-store';
import { useCompany } from './company-store';
import { useMix } from '../../window/sound/mix';
import { songOf } from '../../window/song/live-song';
import { tell } from '../../window/notices/notices';

/** Solos exactly these; all others lose their solo. Nothing where they are soloed already: then every solo ends. */
function soloExactly(desk: Desk, stripIds: readonly string[], label: string): void {
  const strips = [...songOf(desk).tracks, ...songOf(desk).buses];
  const isSo = strips.every((strip) => strip.soloed === stripIds.includes(strip.id));
  const edits = strips.flatMap((strip): Edit[] => {
    const soloed = !isSo && stripIds.includes(strip.id);
    return soloed === strip.soloed ? [] : [{ kind: 'strip.set', stripId: strip.id, changes: { soloed } }];
  });
  useSongStore.of(desk).edit(batch(edits), label);
}

/** One track and the one that it is compared with: the first of its company, or of those that are chosen with it, or its worst overlap. */
export function soloPair(desk: Desk, stripId: string): void {
  const { overlaps } = useMix.of(desk).figures;
  const worst = overlaps.find(({ quieterId, louderId }) => quieterId === stripId || louderId === stripId);
  const partner = [
    ...useCompany.of(desk).stripIds,
    ...chosenStrips(desk).map(({ id }) => id),
    ...(worst ? [worst.quieterId, worst.louderId] : []),
  ].find((id) => id !== stripId);
  if (partner === undefined) tell(desk, 'Take a track into its company first: then both are heard alone.');
  else soloExactly(desk, [stripId, partner], 'Solo the pair');
}

/** A track and all its company. */
export function soloCompany(desk: Desk, stripId: string): void {
  soloExactly(desk, [stripId, ...useCompany.of(desk).stripIds], 'Solo the company');
}
