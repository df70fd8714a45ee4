'use client';
import styled from 'styled-components';
import { parseFrequency, writeFrequency, writeGain } from '@/core/formats';
import type { Edit } from '@/core/song';
import { useDesk } from '../../window/desk/desk';
import { PanelLine } from '../../kit/controls/panel';
import { TextButton } from '../../kit/controls/button';
import { ValueField } from '../../kit/controls/value-field';
import { stepHz } from '../../kit/gestures/steps';
import { useMix } from '../../window/sound/mix';
import { useSongStore } from '../../window/song/song-store';
import type { StripFacts } from '../../window/song/selection';
import { addClaim, changeClaim, removeClaim } from './claim-edits';
import { proposeClaims } from './propose-claims';

/** What the chosen track claims, to be typed, and how it stands there. */
export function ClaimsSection({ strip }: { strip: StripFacts & { claims: NonNullable<StripFacts['claims']> } }) {
  const desk = useDesk();
  const { id, claims } = strip;
  const edit = (next: Edit | null, label: string) => useSongStore.of(desk).edit(next, label);
  return (
    <Section role="group" aria-label="Claims">
      <span>{claims.length > 1 ? 'Claims' : 'Claim'}</span>
      {claims.map((claim, index) => {
        const set = (edge: 'lowHz' | 'highHz', hz: number) =>
          edit(
            changeClaim({ id, claims }, index, { ...claim, [edge]: hz }, edge === 'lowHz' ? 'low' : 'high'),
            'Set a claim',
          );
        const field = (edge: 'lowHz' | 'highHz', label: string) => (
          <ValueField
            label={`Claim ${index + 1}, ${label}`}
            shown={writeFrequency(claim[edge])}
            parse={parseFrequency}
            example="250, 2.5k, A4"
            width={72}
            onCommit={(hz) => set(edge, hz)}
            onStep={(direction, size) => set(edge, stepHz(claim[edge], direction, size))}
          />
        );
        return (
          <PanelLine key={index}>
            {field('lowHz', 'lower edge')}
            <span>to</span>
            {field('highHz', 'upper edge')}
            <TextButton
              aria-label={`Give claim ${index + 1} up`}
              onPress={() => edit(removeClaim({ id, claims }, index), 'Give a claim up')}
            >
              Give up
            </TextButton>
          </PanelLine>
        );
      })}
      <Clearance stripId={id} />
      <PanelLine>
        {claims.length === 0 && (
          <TextButton
            data-hint="From its part and its spectrum in the loop"
            onPress={() => void proposeClaims(desk, [id])}
          >
            Propose one
          </TextButton>
        )}
        <TextButton
          data-hint="Or drag along the foot of its lane"
          onPress={() => edit(addClaim({ id, claims }, 500, 2000), 'Claim a range')}
        >
          + Add one
        </TextButton>
      </PanelLine>
    </Section>
  );
}

function Clearance({ stripId }: { stripId: string }) {
  const clearance = useMix((mix) => mix.figures.clearances[stripId]);
  if (!clearance) return null;
  return (
    <p data-sound>
      Clearance {writeGain(clearance.clearanceDb)}, on top {Math.round(clearance.onTop * 100)} % of the time it plays
    </p>
  );
}

const Section = styled.div`
  margin: 6px 0;
  > span {
    color: var(--soft);
  }
`;
