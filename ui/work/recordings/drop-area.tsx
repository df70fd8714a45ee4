'use client';
import { useRef, type ReactNode } from 'react';
import { useDrop, type DropItem } from 'react-aria-components';
import styled from 'styled-components';
import { SERIF } from '../../kit/theme/tokens';
import { useDesk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';
import { droppedFiles } from './dropped-files';
import { uploadsOf } from './upload';

/** The page as a place to drop files on, anywhere. */
export function DropArea({ children, ...rest }: { children: ReactNode }) {
  const desk = useDesk();
  const ref = useRef<HTMLElement>(null);
  const take = async (items: readonly DropItem[]) => {
    const { files, faults } = await droppedFiles(items);
    for (const fault of faults) tell(desk, fault, 'error');
    if (files.length > 0) await uploadsOf(desk).add(files);
  };
  const { dropProps, isDropTarget } = useDrop({
    ref,
    // What is dragged within the page is taken by the lanes.
    getDropOperation: (types) => (types.has('application/x-orvid-equalizer') ? 'cancel' : 'copy'),
    onDrop: ({ items }) => void take(items),
  });
  return (
    <main {...rest} {...dropProps} ref={ref}>
      {children}
      {isDropTarget && <Sheet>Drop them here, files or folders: each recording becomes a track</Sheet>}
    </main>
  );
}

const Sheet = styled.div`
  position: fixed;
  inset: 12px;
  z-index: 30;
  display: grid;
  place-items: center;
  border: 2px dashed var(--claim);
  background: color-mix(in srgb, var(--paper) 84%, transparent);
  color: var(--claim);
  font: italic 400 26px ${SERIF};
  pointer-events: none;
`;
