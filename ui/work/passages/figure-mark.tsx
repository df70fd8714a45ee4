'use client';
import { useMemo } from 'react';
import { Button, MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { writeChange } from '@/core/passages';
import { writeTime } from '@/core/formats';
import { figureKey, type FigureRef, type Passage, type PassageChange } from '@/core/song';
import { Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';
import { useDesk } from '../../window/desk/desk';
import { useSongStore } from '../../window/song/song-store';
import { openPassage } from './passage-edits';

/** Stands beside a figure that differs in some passages: tells where, and goes there. */
export function FigureMark({ stripId, of, partId, field }: FigureRef) {
  const passages = useSongStore(({ state }) => state.document.passages);
  const key = figureKey({ stripId, of, partId, field });
  const found = useMemo(
    () =>
      passages.flatMap((passage) => {
        const change = passage.changes.find(({ figure }) => figureKey(figure) === key);
        return change ? [{ passage, change }] : [];
      }),
    [passages, key],
  );
  return found.length > 0 && <Differs found={found} />;
}

/** @param found the passages in which the figure differs, and how */
function Differs({ found }: { found: readonly { passage: Passage; change: PassageChange }[] }) {
  const desk = useDesk();
  const document = useSongStore(({ state }) => state.document);
  const lines = found.map(({ passage, change }) => ({
    id: passage.id,
    name: `${passage.name}, ${writeTime(passage.startSeconds)}: ${writeChange(document, change) ?? ''}`,
  }));
  const many = found.length === 1 ? 'one passage' : `${found.length} passages`;
  return (
    <MenuTrigger>
      <Mark aria-label={`Differs in ${many}`} data-hint={`Differs: ${lines.map(({ name }) => name).join(' · ')}`}>
        <svg width="13" height="9" viewBox="0 0 13 9" aria-hidden>
          <path d="M1 7 H4 L6 2 H9 L11 7 H12" fill="none" stroke="currentColor" strokeWidth="1.6" />
        </svg>
        {found.length > 1 && found.length}
      </Mark>
      <MenuPanel>
        <Menu onAction={(id) => openPassage(desk, String(id))}>
          {lines.map(({ id, name }) => (
            <MenuItem key={id} id={id}>
              {name}
            </MenuItem>
          ))}
        </Menu>
      </MenuPanel>
    </MenuTrigger>
  );
}

const Mark = styled(Button)`
  min-width: 24px;
  min-height: 24px;
  margin: 0 -3px;
  padding: 0 2px;
  border: 0;
  background: none;
  color: var(--accent);
  font-size: 11px;
  cursor: default;
`;
