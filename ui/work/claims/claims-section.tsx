'use client';
import styled from 'styled-components';
import { parseFrequency, writeFrequency, writeGain } from '@/core/formats';
import { batch, FREQUENCY_RANGE_HZ, type Edit, type Track } from '@/core/song';
import { type Desk, useDesk } from '../../window/desk/desk';
import { PanelLine } from '../../kit/controls/panel';
import { TextButton } from '../../kit/controls/button';
import { ValueField } from '../../kit/controls/value-field';
import { stepHz } from '../../kit/gestures/steps';
import { proposedClaim, useMix } from '../../window/sound/mix';
import { useSongStore } from '../../window/song/song-store';
import type { StripFacts } from '../../window/song/selection';
import { addClaim, changeClaim, removeClaim } from './claim-edits';
import { songOf } from '../../window/song/live-song';
import { tell } from '../../window/notices/notices';

const parse = (text: string) => {
  const hz = parseFrequency(text);
  return hz !== null && hz >= FREQUENCY_RANGE_HZ.min && hz <= FREQUENCY_RANGE_HZ.max ? hz : null;
};

/** Proposes claims for tracks and keeps them as one step. */
export async function proposeClaims(desk: Desk, trackIds: readonly string[]): Promise<void> {
  const edits: Edit[] = [];
  const song = songOf(desk);
  const strips: Pick<Track, 'id' | 'name' | 'claims'>[] = [...song.tracks, ...song.buses];
  for (const strip of strips.filter(({ id }) => trackIds.includes(id))) {
    const part = song.tracks.find(({ id }) => id === strip.id)?.part;
    const claim = await proposedClaim(desk, strip.id, part || strip.name);
    const edit = claim && addClaim(strip, claim.lowHz, claim.highHz);
    if (edit) edits.push(edit);
  }
  const { edit } = useSongStore.of(desk);
  if (edits.length === 0) tell(desk, 'None of them plays in the loop, so no claim can be proposed.');
  else edit(batch(edits), edits.length === 1 ? 'Propose a claim' : 'Propose claims');
}

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
            parse={parse}
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
