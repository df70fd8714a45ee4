'use client';
import styled from 'styled-components';
import { frozenState, useFrozen } from '../../window/sound/frozen';
import { FROZEN_WORDS } from './frozen-row';

/** Marks a track that is to be frozen: full where its render is played, empty where it runs. */
export function FrozenSign({ stripId }: { stripId: string }) {
  const state = useFrozen((store) => frozenState(store, stripId));
  if (state === 'live') return null;
  const text = `Frozen: ${FROZEN_WORDS[state]}`;
  return (
    <Sign title={text} data-hint={text} data-testid={`frozen-${stripId}`} data-state={state}>
      {state === 'frozen' ? '■' : '□'}
    </Sign>
  );
}

const Sign = styled.abbr`
  color: var(--claim);
  font-size: 10px;
  text-decoration: none;
  &[data-state='failed'] {
    color: var(--accent);
  }
`;
