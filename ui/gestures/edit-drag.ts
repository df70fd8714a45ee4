import type { PointerEvent as ReactPointerEvent } from 'react';
import type { Edit } from '@/core/song';
import { useSongStore } from '../song';
import { followDrag, type DragMove } from './drag';

/**
 * A drag that edits the song: shown while it goes on, kept as one step of undo when it ends, taken back by Escape.
 * @param edit what a move does, from where the gesture began; null shows the song as it was
 */
export function dragEdit(event: ReactPointerEvent, label: string, edit: (move: DragMove) => Edit | null): void {
  if (event.button !== 0) return;
  event.stopPropagation();
  const { preview, keepPreview, hearEarly } = useSongStore.getState();
  followDrag(event.nativeEvent, {
    onMove: (move) => preview(edit(move)),
    onEarly: (move) => hearEarly(edit(move)),
    onEnd: () => keepPreview(label),
    onCancel: () => preview(null),
  });
}
