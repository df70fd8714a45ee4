'use client';
import { useShallow } from 'zustand/react/shallow';
import { writeGain } from '@/core/formats';
import { useDesk } from '../../window/desk/desk';
import { Button, ToggleButton } from '../../kit/controls/button';
import { Choice } from '../../kit/controls/choice';
import { FigureRow } from '../../kit/controls/figure-row';
import { PanelBody, PanelLine } from '../../kit/controls/panel';
import { useListening, type CompareScope } from '../../window/sound/listening';
import { useBlind } from './blind-store';
import { DraftSection } from './draft-section';

const SCOPES: readonly { id: CompareScope; name: string }[] = [
  { id: 'mix', name: 'the whole mix' },
  { id: 'track', name: 'the track' },
  { id: 'processor', name: 'what is on the bench' },
  { id: 'band', name: 'the band' },
  { id: 'passage', name: 'The passage here' },
];

/** Before and after, blind, drafts. */
export function ComparePanel() {
  const desk = useDesk();
  const listening = useListening(
    useShallow((listening) => ({
      scope: listening.scope,
      before: listening.before,
      isMatched: listening.isMatched,
      matchedGainDb: listening.matchedGainDb,
      isEarshotMatched: listening.isEarshotMatched,
      setScope: listening.setScope,
      setBefore: listening.setBefore,
      setMatched: listening.setMatched,
      setEarshotMatched: listening.setEarshotMatched,
    })),
  );
  const { scope, before, isMatched, matchedGainDb, isEarshotMatched } = listening;
  const { setScope, setBefore, setMatched, setEarshotMatched } = listening;
  return (
    <PanelBody aria-label="Compare">
      <h2>Before and after</h2>
      <FigureRow>
        <span>Without</span>
        <Choice label="What is compared" value={scope} options={SCOPES} width={140} onChange={setScope} />
      </FigureRow>
      <PanelLine>
        <ToggleButton
          isSelected={before}
          data-hint="Without its equalizers · B held, or Shift B"
          onChange={(next) => setBefore(next)}
        >
          {before ? 'Before is heard' : 'After is heard'}
        </ToggleButton>
        <ToggleButton
          isSelected={isMatched}
          data-hint="The quieter is not at a disadvantage: BS.1770 over the loop, from the stored analysis"
          onChange={setMatched}
        >
          Matched <span data-sound>{writeGain(matchedGainDb)}</span>
        </ToggleButton>
      </PanelLine>
      <PanelLine>
        <Button
          data-hint="Two states in random order, without their names"
          onPress={() => useBlind.of(desk).open({ kind: 'scope', scope })}
        >
          Compare blind…
        </Button>
      </PanelLine>
      <PanelLine>
        <ToggleButton
          isSelected={isEarshotMatched}
          data-hint="What is heard alone with E held is brought to the loudness of the whole"
          onChange={setEarshotMatched}
        >
          Earshot matched too
        </ToggleButton>
      </PanelLine>
      <DraftSection />
    </PanelBody>
  );
}
