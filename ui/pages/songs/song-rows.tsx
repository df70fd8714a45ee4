'use client';
import { formatDistanceToNow } from 'date-fns';
import Link from 'next/link';
import { useState } from 'react';
import { Input, MenuTrigger, SearchField, useFilter } from 'react-aria-components';
import styled from 'styled-components';
import { writeLength } from '@/core/formats';
import type { SongSummary } from '@/core/song';
import { TextButton } from '../../kit/controls/button';
import { Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';

export type SongAction = 'rename' | 'duplicate' | 'delete';

interface SongRowsProps {
  /** The one that was changed last comes first. */
  songs: readonly SongSummary[];
  onAction: (song: SongSummary, action: SongAction) => void;
}

/** So many are shown until more are asked for; where there are more, they can be looked through by title. */
const SHOWN_AT_FIRST = 40;

/** Songs to open, and what else can be done with each. */
export function SongRows({ songs, onAction }: SongRowsProps) {
  const [sought, setSought] = useState('');
  const [areAllShown, setAllShown] = useState(false);
  const { contains } = useFilter({ sensitivity: 'base' });
  const found = songs.filter(({ title }) => contains(title, sought.trim()));
  const shown = areAllShown ? found : found.slice(0, SHOWN_AT_FIRST);
  return (
    <>
      {(songs.length > SHOWN_AT_FIRST || sought !== '') && (
        <Find aria-label="Find a song by its title" value={sought} onChange={setSought}>
          <Input placeholder={`Find one of ${songs.length} songs by its title`} />
        </Find>
      )}
      <Rows aria-label="Songs">
        {shown.map((song) => (
          <li key={song.id}>
            <Link href={`/songs/${song.id}`} prefetch={false}>
              {song.title}
            </Link>
            {song.problem === null ? (
              <>
                <span>{song.tracks === 1 ? '1 track' : `${song.tracks} tracks`}</span>
                <span>{writeLength(song.lengthSeconds)}</span>
                <span suppressHydrationWarning>
                  changed {formatDistanceToNow(new Date(song.changedAt), { addSuffix: true })}
                </span>
              </>
            ) : (
              <Damage title={song.problem}>cannot be opened: open it to see why, and what can be done</Damage>
            )}
            <MenuTrigger>
              <TextButton aria-label={`What to do with ${song.title}`}>More…</TextButton>
              <MenuPanel placement="bottom end">
                <Menu
                  onAction={(action) => onAction(song, action as SongAction)}
                  aria-label={`What to do with ${song.title}`}
                >
                  {song.problem === null && <MenuItem id="rename">Rename…</MenuItem>}
                  {song.problem === null && <MenuItem id="duplicate">Duplicate</MenuItem>}
                  <MenuItem id="delete">Delete</MenuItem>
                </Menu>
              </MenuPanel>
            </MenuTrigger>
          </li>
        ))}
      </Rows>
      {found.length === 0 && <Rest>No title has “{sought.trim()}” in it.</Rest>}
      {shown.length < found.length && (
        <Rest>
          {shown.length} of {found.length}, the last changed ones.{' '}
          <TextButton onPress={() => setAllShown(true)}>Show all</TextButton>
        </Rest>
      )}
    </>
  );
}

const Find = styled(SearchField)`
  padding: 10px 0;
  border-bottom: 1px solid var(--grid);
  input {
    width: 100%;
    height: 30px;
    padding: 0 9px;
    border: 1px solid var(--rule);
    border-radius: 3px;
    background: var(--field);
    color: var(--ink);
    font-size: 15px;
  }
  input::placeholder {
    color: var(--soft);
  }
`;
const Rows = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 80px 60px 180px 60px;
    align-items: baseline;
    gap: 14px;
    padding: 12px 0;
    border-bottom: 1px solid var(--grid);
    color: var(--soft);
  }
  a {
    overflow: hidden;
    color: var(--ink);
    font-size: 16px;
    font-weight: 600;
    text-decoration: none;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  a:hover {
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  @media (max-width: 640px) {
    li {
      grid-template-columns: minmax(0, 1fr) 80px 60px;
    }
    li > span:nth-of-type(n + 2) {
      display: none;
    }
  }
`;
const Damage = styled.span`
  grid-column: span 3;
  color: var(--accent);
  font-weight: 600;
`;
const Rest = styled.p`
  padding: 12px 0;
  color: var(--soft);
`;
