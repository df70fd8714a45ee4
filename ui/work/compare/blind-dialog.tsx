'use client';
import styled from 'styled-components';
import { processorName, within, writeNumber } from '@/core/formats';
import { guessProbability } from '@/core/measure';
import { type Desk, useDesk } from '../../window/desk/desk';
import { Button, ToggleButton } from '../../kit/controls/button';
import { Dialog, DialogActions } from '../../kit/controls/dialog';
import { FigureRow } from '../../kit/controls/figure-row';
import { ValueField } from '../../kit/controls/value-field';
import { useSession } from '../../window/sound/session-store';
import { chosenBand, chosenProcessor, stripName } from '../../window/song/selection';
import { chosenSide, TRIALS, useBlind, type BlindPair } from './blind-store';
import { passageNow } from '../../window/song/open-passage';
import { songOf } from '../../window/song/live-song';

/** What the two sides of a pair are called. */
function sideNames(desk: Desk, pair: BlindPair): { now: string; other: string } {
  if (pair.kind === 'draft') {
    const draft = songOf(desk).drafts.find(({ id }) => id === pair.draftId);
    return { now: 'the song as it is', other: `“${draft?.name ?? 'the draft'}”` };
  }
  const { strip, band } = chosenBand(desk);
  const processor = chosenProcessor(desk);
  const what =
    pair.scope === 'mix'
      ? 'the mix'
      : pair.scope === 'passage'
        ? `“${passageNow(desk)?.name ?? 'the passage'}”`
        : pair.scope === 'processor' && processor
          ? `the ${processorName(processor).toLowerCase()} of ${stripName(strip)}`
          : pair.scope !== 'band' || !band
            ? stripName(strip)
            : `band ${band.letter} of ${stripName(strip)}`;
  return { now: `after, with ${what} as it is`, other: `before, without ${what === 'the mix' ? 'equalizers' : what}` };
}

/** Two states in random order, heard without their names. */
export function BlindDialog() {
  const desk = useDesk();
  const pair = useBlind((blind) => blind.pair);
  return (
    <Dialog title="Compare blind" isOpen={pair !== null} onClose={() => useBlind.of(desk).end(false)} width={440}>
      {pair && <Sheet pair={pair} />}
    </Dialog>
  );
}

function Sheet({ pair }: { pair: BlindPair }) {
  const stage = useBlind((blind) => blind.stage);
  if (stage === 'asked') return <Ask pair={pair} />;
  return stage === 'running' ? <Trial /> : <Result pair={pair} />;
}

function Ask({ pair }: { pair: BlindPair }) {
  const desk = useDesk();
  const { trials, setTrials, start, end } = useBlind();
  const names = sideNames(desk, pair);
  return (
    <>
      <p>
        One is {names.now}; the other is {names.other}. Both are brought to the same loudness, and come in random order.
      </p>
      <FigureRow>
        <span>Trials</span>
        <ValueField
          label="Trials"
          shown={String(trials)}
          parse={(text) => (/^\d+$/.test(text.trim()) ? within(Number(text), TRIALS) : null)}
          example="8, 1 to 16"
          onCommit={setTrials}
          onStep={(direction) => setTrials(trials + direction)}
        />
        <i>
          {TRIALS.min} to {TRIALS.max}
        </i>
      </FigureRow>
      <DialogActions>
        <Button onPress={() => end(false)}>Leave it</Button>
        <Button $strong onPress={start}>
          Begin
        </Button>
      </DialogActions>
    </>
  );
}

function Trial() {
  const { answers, trials, heard, hear, prefer, end } = useBlind();
  const isPlaying = useSession((session) => session.isPlaying);
  const togglePlay = useSession((session) => session.togglePlay);
  return (
    <>
      <p role="status">
        Trial {answers.length + 1} of {trials}. Listen to both as long as you like.
      </p>
      <Pair role="group" aria-label="Which one is heard">
        {([1, 2] as const).map((which) => (
          <ToggleButton key={which} $tone="ink" isSelected={heard === which} onChange={() => hear(which)}>
            Hear the {which === 1 ? 'first' : 'second'}
          </ToggleButton>
        ))}
      </Pair>
      <Pair role="group" aria-label="Which one is better">
        {([1, 2] as const).map((which) => (
          <Button key={which} $outlined onPress={() => prefer(which)}>
            The {which === 1 ? 'first' : 'second'} is better
          </Button>
        ))}
      </Pair>
      <DialogActions>
        <Button onPress={togglePlay}>{isPlaying ? 'Stop' : 'Play'}</Button>
        <Button onPress={() => end(false)}>Break off</Button>
      </DialogActions>
    </>
  );
}

function Result({ pair }: { pair: BlindPair }) {
  const desk = useDesk();
  const { answers, end } = useBlind();
  const names = sideNames(desk, pair);
  const chosen = chosenSide(answers);
  const count = answers.filter((answer) => answer === (chosen ?? 'now')).length;
  const percent = 100 * guessProbability(count, answers.length);
  return (
    <>
      <p role="status">
        {chosen
          ? `Chosen ${count} times of ${answers.length}: ${names[chosen]}.`
          : `Both were chosen ${count} times of ${answers.length}.`}
      </p>
      <p>
        Guessing gives so clear a result, or a clearer one, in {writeNumber(percent, percent < 10 ? 1 : 0)} % of cases
        {percent > 5 ? ': it does not say much.' : '.'}
      </p>
      <DialogActions>
        {chosen === 'other' ? (
          <>
            <Button onPress={() => end(false)}>Leave it</Button>
            <Button $strong onPress={() => end(true)}>
              Keep what was chosen
            </Button>
          </>
        ) : (
          <Button $strong onPress={() => end(true)}>
            The song stays as it is
          </Button>
        )}
      </DialogActions>
    </>
  );
}

const Pair = styled.div`
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 8px;
  margin-top: 10px;
`;
