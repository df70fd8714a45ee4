'use client';
import { useRef } from 'react';
import { Button as AriaButton } from 'react-aria-components';
import styled from 'styled-components';
import { writeGain } from '@/core/formats';
import { useEstimated } from '../../window/sound/strip-measures';
import { Choice } from '../../kit/controls/choice';
import { TextButton } from '../../kit/controls/button';
import { useListening, type CompareScope } from '../../window/sound/listening';
import { Group } from './group';

/** A press longer than this is a hold: it ends when it is let go. */
const HOLD_MS = 350;

const SCOPES: readonly { id: CompareScope; name: string }[] = [
  { id: 'mix', name: 'Mix' },
  { id: 'track', name: 'Track' },
  { id: 'processor', name: 'Bench' },
  { id: 'band', name: 'Band' },
  { id: 'passage', name: 'Passage' },
];

/** What is compared, before or after, and by how much it is matched. */
export function BeforeAfter() {
  const before = useListening((listening) => listening.before);
  const setBefore = useListening((listening) => listening.setBefore);
  const scope = useListening((listening) => listening.scope);
  const setScope = useListening((listening) => listening.setScope);
  const pressedAt = useRef(0);
  return (
    <Group>
      <Choice label="What before leaves out" value={scope} options={SCOPES} width={68} onChange={setScope} />
      <Pair role="group" aria-label="Before or after">
        <AriaButton
          aria-pressed={before}
          data-hint="Without what shapes it, at matched loudness: click, or hold · B held, Shift B"
          onPressStart={() => {
            pressedAt.current = performance.now();
            setBefore(true);
          }}
          onPressEnd={() => {
            if (performance.now() - pressedAt.current > HOLD_MS) setBefore(false);
          }}
        >
          Before
        </AriaButton>
        <AriaButton aria-pressed={!before} data-hint="As it is now" onPress={() => setBefore(false)}>
          After
        </AriaButton>
      </Pair>
      <MatchedGain />
    </Group>
  );
}

/** Apart from the buttons: it follows every change. What a draft left behind when it was taken is ended here. */
function MatchedGain() {
  const { matchedGainDb, isMatched, setMatched, trimDb, setTrim } = useListening();
  // What reacts to levels is measured in the background.
  const estimated = useEstimated();
  return (
    <Matched>
      <TextButton
        aria-pressed={isMatched}
        data-hint="What “before” is turned up or down by, so that louder does not win: BS.1770 over the loop · press to switch it on or off"
        onPress={() => setMatched(!isMatched)}
      >
        {isMatched ? 'matched' : 'not matched'} {isMatched && estimated && '≈ '}
        <span data-sound>{writeGain(isMatched ? matchedGainDb : 0)}</span>
      </TextButton>
      {trimDb !== 0 && (
        <TextButton
          data-hint="The monitor is turned so that the draft that was taken is as loud as what was heard before it · press to end it"
          onPress={() => setTrim(0)}
        >
          monitor {writeGain(trimDb)} ×
        </TextButton>
      )}
    </Matched>
  );
}

const Pair = styled.div`
  display: flex;
  border: 1px solid var(--rule);
  border-radius: 3px;
  button {
    height: 26px;
    padding: 0 14px;
    border: 1px solid var(--unseen);
    border-radius: 2px;
    background: none;
    color: var(--soft);
    font-weight: 500;
  }
  button[aria-pressed='true'] {
    border-color: var(--ink);
    background: var(--field);
    color: var(--ink);
    font-weight: 600;
  }
`;
const Matched = styled.span`
  display: grid;
  justify-items: start;
  button {
    color: var(--soft);
    font-size: 12px;
    font-weight: 400;
    white-space: nowrap;
  }
  button[aria-pressed='false'] {
    color: var(--accent);
  }
`;
