import type { PointerEvent as ReactPointerEvent } from 'react';
import type { Edit } from '@/core/song';
import { followDrag, type DragMove } from '../../kit/gestures/drag';
import type { Desk } from '../desk/desk';
import type { PreviewOwner } from './song-state';
import { useSongStore } from './song-store';

/**
 * A drag that edits the song: heard and drawn while it goes on, kept as one step of undo when it ends, taken back by Escape, and ended
 * when what it is about is gone.
 * @param edit what a move does, from where the gesture began; null shows the song as it was
 */
export function dragEdit(
  desk: Desk,
  event: ReactPointerEvent,
  label: string,
  edit: (move: DragMove) => Edit | null,
): void {
  if (event.button !== 0) return;
  event.stopPropagation();
  const { preview, keepPreview } = useSongStore.of(desk);
  const owner: PreviewOwner = {};
  const drag = followDrag(event.nativeEvent, {
    onMove: (move) => {
      if (!preview(owner, edit(move), { isDrag: true })) drag.end();
    },
    onEnd: () => keepPreview(owner, label),
    onCancel: () => preview(owner, null),
  });
  owner.onLost = () => drag.end();
}
