import { batch, type Edit } from '@/core/song';
import { chosenStrips, currentSong, useSongStore } from '../song';
import { useCompany } from './company';
import { useMix } from './mix';

/** Solos exactly these; all others lose their solo. Nothing where they are soloed already: then every solo ends. */
function soloExactly(stripIds: readonly string[], label: string): void {
  const strips = [...currentSong().tracks, ...currentSong().buses];
  const isSo = strips.every((strip) => strip.soloed === stripIds.includes(strip.id));
  const edits = strips.flatMap((strip): Edit[] => {
    const soloed = !isSo && stripIds.includes(strip.id);
    return soloed === strip.soloed ? [] : [{ kind: 'strip.set', stripId: strip.id, changes: { soloed } }];
  });
  useSongStore.getState().edit(batch(edits), label);
}

/** One track and the one that it is compared with: the first of its company, or of those that are chosen with it, or its worst overlap. */
export function soloPair(stripId: string): void {
  const { overlaps } = useMix.getState().figures;
  const worst = overlaps.find(({ quieterId, louderId }) => quieterId === stripId || louderId === stripId);
  const partner = [
    ...useCompany.getState().stripIds,
    ...chosenStrips().map(({ id }) => id),
    ...(worst ? [worst.quieterId, worst.louderId] : []),
  ].find((id) => id !== stripId);
  if (partner === undefined)
    useSongStore.getState().tell('Take a track into its company first: then both are heard alone.');
  else soloExactly([stripId, partner], 'Solo the pair');
}

/** A track and all its company. */
export function soloCompany(stripId: string): void {
  soloExactly([stripId, ...useCompany.getState().stripIds], 'Solo the company');
}
