'use client';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { writeBytes } from '@/core/formats';
import { Button, TextButton } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { request } from '../../window/server/request';

/** Bytes, by what they are for. */
interface Space {
  recordings: number;
  renders: number;
  database: number;
  backups: number;
  unneeded: number;
}

/** What is used on the disk, and what of it nobody needs any more. @param onProblem hears what could not be done */
export function SpaceLine({ onProblem }: { onProblem: (error: unknown) => void }) {
  const [space, setSpace] = useState<Space | null>(null);
  const [isAsked, setIsAsked] = useState(false);
  useEffect(() => {
    request<Space>('GET', '/api/space').then(setSpace, () => undefined);
  }, []);
  if (!space) return null;
  const clear = () => {
    setIsAsked(false);
    request<Space>('DELETE', '/api/space').then(setSpace, onProblem);
  };
  const used = space.recordings + space.renders + space.database + space.backups;
  return (
    <Line>
      <span>
        {writeBytes(used)} in use: recordings {writeBytes(space.recordings)}, renders {writeBytes(space.renders)},
        database and its copies {writeBytes(space.database + space.backups)}.
      </span>
      {space.unneeded > 0 && (
        <span>
          {writeBytes(space.unneeded)} of it nobody needs any more: it goes by itself 30 days after it was removed.{' '}
          <TextButton onPress={() => setIsAsked(true)}>Clear it now…</TextButton>
        </span>
      )}
      <Dialog title="Clear what nobody needs" isOpen={isAsked} onClose={() => setIsAsked(false)}>
        <p>
          Finished renders, deleted songs, and recordings that no song plays: {writeBytes(space.unneeded)}. Tracks that
          were removed can then not be brought back by undo, nor deleted songs put back.
        </p>
        <DialogActions>
          <Button onPress={() => setIsAsked(false)}>Cancel</Button>
          <Button $strong onPress={clear}>
            Clear it
          </Button>
        </DialogActions>
      </Dialog>
    </Line>
  );
}

const Line = styled.footer`
  display: grid;
  gap: 6px;
  padding: 18px 0;
  color: var(--soft);
`;
