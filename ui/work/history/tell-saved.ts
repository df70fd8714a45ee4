import { asOrvidError } from '@/core/errors';
import type { Desk } from '../../window/desk/desk';
import { tell, tellError } from '../../window/notices/notices';
import { whenSaved } from '../../window/outbox/link';
import { useSongStore } from '../../window/song/song-store';

/** For those whose hands save by themselves: takes what is being typed, and says whether all of it is on the server. */
export async function tellSaved(desk: Desk): Promise<void> {
  const { activeElement } = document;
  if (activeElement instanceof HTMLElement && activeElement.dataset.draft !== undefined) activeElement.blur();
  try {
    await whenSaved(desk);
    const { revision } = useSongStore.of(desk).state;
    tell(desk, `Saved, revision ${revision}: everything is saved as it is done. History goes back to any of it.`);
  } catch (thrown) {
    tellError(desk, asOrvidError(thrown));
  }
}
