import type { Marker } from '@/core/formats';
import type { SongPart } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';

/** Markers of recordings that came in: offered as parts, and never taken by themselves. */
interface OfferedParts {
  offers: readonly { fileName: string; parts: readonly SongPart[] }[];
  forget: () => void;
}

export const useOfferedParts = deskStore<OfferedParts>(() => (set) => ({
  offers: [],
  forget: () => set({ offers: [] }),
}));

/** Offers the markers of a file that is being added. */
export function offerParts(desk: Desk, file: File, markers: readonly Marker[]): void {
  if (markers.length === 0) return;
  const parts = markers.map(({ name, seconds }) => ({ name, startSeconds: Math.round(seconds * 1e6) / 1e6 }));
  useOfferedParts.api(desk).setState(({ offers }) => ({
    offers: [...offers.filter(({ fileName }) => fileName !== file.name), { fileName: file.name, parts }],
  }));
  tell(
    desk,
    `“${file.name}” has ${parts.length === 1 ? 'a marker' : `${parts.length} markers`}: they are offered as parts under Passages.`,
  );
}
