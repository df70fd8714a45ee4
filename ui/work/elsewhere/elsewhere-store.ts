import { PLACES, type PlaceId } from '@/core/elsewhere';
import { deskStore, type Desk } from '../../window/desk/desk';
import { useListening } from '../../window/sound/listening';

/** The place that the key goes to. */
const useLastPlace = deskStore<{ last: PlaceId }>(() => () => ({ last: 'small-speakers' }));

/** Hears the mix in a place; null for here. */
export function goElsewhere(desk: Desk, place: PlaceId | null): void {
  if (place) useLastPlace.api(desk).setState({ last: place });
  useListening.of(desk).setElsewhere(place);
}

/** Between here and the place that was heard last. */
export const toggleElsewhere = (desk: Desk): void =>
  goElsewhere(desk, useListening.of(desk).elsewhere ? null : useLastPlace.of(desk).last);

/** The place after the one that is heard. */
export function nextPlace(desk: Desk): void {
  const at = PLACES.findIndex(({ id }) => id === useListening.of(desk).elsewhere);
  goElsewhere(desk, PLACES[(at + 1) % PLACES.length].id);
}
