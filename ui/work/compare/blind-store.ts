import { type Desk, deskStore } from '../../window/desk/desk';
import type { Scope } from '@/core/engine';
import { switchEdit, equalizersOf, MASTER_ID, type Edit, batch } from '@/core/song';
import {
  draftGainNow,
  matchedGainFor,
  scopeNow,
  scopeTarget,
  useListening,
  type CompareScope,
  type TestSide,
} from '../../window/sound/listening';
import { useSongStore } from '../../window/song/song-store';
import { takeDraft } from './take-draft';
import { songOf } from '../../window/song/live-song';

/** What is compared blind: the song as it is, and the same without something, or a draft. */
export type BlindPair = { kind: 'scope'; scope: CompareScope } | { kind: 'draft'; draftId: string };

export const TRIALS = { min: 1, max: 16, start: 8 } as const;

/** What a side is called once the result is told. */
type Answer = 'now' | 'other';

interface BlindStore {
  pair: BlindPair | null;
  trials: number;
  stage: 'asked' | 'running' | 'told';
  /** Which of the two is heard first in each trial. */
  firsts: readonly Answer[];
  answers: readonly Answer[];
  /** What is heard beside the song as it is. */
  other: TestSide;
  /** Which one of the trial is heard: the first or the second. */
  heard: 1 | 2;
  open: (pair: BlindPair) => void;
  setTrials: (trials: number) => void;
  start: () => void;
  hear: (which: 1 | 2) => void;
  prefer: (which: 1 | 2) => void;
  /** @param keep true to make the song what was chosen */
  end: (keep: boolean) => void;
}

const AS_IT_IS: TestSide = { without: null, draftId: null, trimsDb: {} };

/** The other side of a pair, at the loudness of the song as it is. */
function otherSide(desk: Desk, pair: BlindPair): TestSide {
  if (pair.kind === 'draft') {
    const { draftId } = pair;
    return { without: null, draftId, trimsDb: { [MASTER_ID]: draftGainNow(desk, draftId) } };
  }
  const without = scopeNow(desk);
  return { without, draftId: null, trimsDb: { [scopeTarget(without)]: matchedGainFor(desk, without) } };
}

const coin = (): Answer => (crypto.getRandomValues(new Uint8Array(1))[0] & 1 ? 'now' : 'other');
const opposite = (answer: Answer): Answer => (answer === 'now' ? 'other' : 'now');

/** Which side was chosen more often; null where neither was. */
export function chosenSide(answers: readonly Answer[]): Answer | null {
  const now = answers.filter((answer) => answer === 'now').length;
  return 2 * now === answers.length ? null : 2 * now > answers.length ? 'now' : 'other';
}

/** The edit that leaves out what the comparison left out. */
function leaveOut(desk: Desk, scope: Scope): Edit | null {
  const song = songOf(desk);
  const strips = [...song.tracks, ...song.buses, song.master];
  if (scope.kind === 'band') {
    const strip = strips.find(({ id }) => id === scope.stripId);
    const equalizer = equalizersOf(strip?.chain ?? []).find(({ bands }) => bands.some(({ id }) => id === scope.bandId));
    if (!equalizer) return null;
    const { stripId, bandId } = scope;
    return { kind: 'band.set', stripId, equalizerId: equalizer.id, bandId, changes: { enabled: false } };
  }
  if (scope.kind === 'processor') {
    const processor = strips.find(({ id }) => id === scope.stripId)?.chain.find(({ id }) => id === scope.processorId);
    return processor ? switchEdit(scope.stripId, processor, false) : null;
  }
  if (scope.kind === 'passage') {
    const isThere = song.passages.some(({ id }) => id === scope.passageId);
    return isThere ? { kind: 'passage.set', passageId: scope.passageId, changes: { enabled: false } } : null;
  }
  return batch(
    strips
      .filter(({ id }) => scope.kind === 'mix' || id === scope.stripId)
      .flatMap(({ id, chain }) =>
        chain.filter(({ enabled }) => enabled).map((processor) => switchEdit(id, processor, false)),
      ),
  );
}

export const useBlind = deskStore<BlindStore>((desk) => (set, get) => {
  const trial = () => get().answers.length;
  const sideOf = (which: 1 | 2): Answer => (which === 1 ? get().firsts[trial()] : opposite(get().firsts[trial()]));
  return {
    pair: null,
    trials: TRIALS.start,
    stage: 'asked',
    firsts: [],
    answers: [],
    other: AS_IT_IS,
    heard: 1,
    open: (pair) => set({ pair, stage: 'asked', answers: [] }),
    setTrials: (trials) => set({ trials: Math.min(TRIALS.max, Math.max(TRIALS.min, Math.round(trials))) }),
    start: () => {
      const { pair, trials } = get();
      if (!pair) return;
      const other = otherSide(desk, pair);
      set({ stage: 'running', other, firsts: Array.from({ length: trials }, coin), answers: [] });
      get().hear(1);
    },
    hear: (which) => {
      set({ heard: which });
      useListening.of(desk).setTest(sideOf(which) === 'now' ? AS_IT_IS : get().other);
    },
    prefer: (which) => {
      const answers = [...get().answers, sideOf(which)];
      const isOver = answers.length === get().trials;
      set({ answers, stage: isOver ? 'told' : 'running' });
      if (isOver) useListening.of(desk).setTest(null);
      else get().hear(1);
    },
    end: (keep) => {
      const { pair, answers, other } = get();
      useListening.of(desk).setTest(null);
      set({ pair: null });
      if (!keep || chosenSide(answers) !== 'other' || !pair) return;
      const draft = pair.kind === 'draft' && songOf(desk).drafts.find(({ id }) => id === pair.draftId);
      if (draft) takeDraft(desk, draft);
      else if (other.without) useSongStore.of(desk).edit(leaveOut(desk, other.without), 'Keep what was chosen blind');
    },
  };
});
