import { PLAIN_HEARING, type Earshot, type Hearing, type Probe, type Scope } from '@/core/engine';
import { placeOf, type PlaceId } from '@/core/elsewhere';
import { matchingGainDb } from '@/core/measure';
import { partLufs } from '@/core/mix';
import { emptyEqualizer, MASTER_ID, type Song } from '@/core/song';
import { deskStore, type Desk } from '../desk/desk';
import { documentOf, liveSong } from '../song/live-song';
import { passageNow } from '../song/open-passage';
import { songNow, useVisited } from '../song/visited';
import { chosenBand, chosenProcessor, useSelection } from '../song/selection';
import { useAnalyses } from './analyses';
import { useStripMeasures } from './strip-measures';

/** What "before" leaves out. */
export type CompareScope = 'mix' | 'track' | 'processor' | 'band' | 'passage';

/** One of the two sides of a blind comparison, as it is heard. */
export interface TestSide {
  without: Scope | null;
  draftId: string | null;
  /** Gains that match it, dB, by strip. */
  trimsDb: Readonly<Record<string, number>>;
}

/** How this window listens: nothing of it is part of the song, and nothing of it is rendered. */
interface Listening {
  mono: boolean;
  before: boolean;
  scope: CompareScope;
  /** True where what is compared is brought to the same loudness. */
  isMatched: boolean;
  /** What brings "before" to the loudness of "after", dB. */
  matchedGainDb: number;
  probe: Probe | null;
  earshot: Earshot | null;
  /** The processor whose key is heard. */
  key: Hearing['key'];
  isEarshotMatched: boolean;
  /** The draft that is heard in place of the song as it stands. */
  draftId: string | null;
  /** What brings that draft to the loudness of the song, dB. */
  draftGainDb: number;
  /** What is left of the matching after a draft was taken: the monitor's gain, dB. */
  trimDb: number;
  test: TestSide | null;
  /** What brings a move that is tried to the loudness that the mix has without it, dB. */
  triedGainDb: number;
  /** Where the mix is heard; null for here. */
  elsewhere: PlaceId | null;
  /** What brings it to the loudness that it has here, dB. */
  elsewhereGainDb: number;
  setMono: (mono: boolean) => void;
  setBefore: (before: boolean) => void;
  setScope: (scope: CompareScope) => void;
  setMatched: (isMatched: boolean) => void;
  setProbe: (probe: Probe | null) => void;
  setEarshot: (earshot: Earshot | null) => void;
  setEarshotMatched: (isEarshotMatched: boolean) => void;
  hearKey: (key: Hearing['key']) => void;
  hearDraft: (draftId: string | null) => void;
  setTrim: (trimDb: number) => void;
  setTest: (test: TestSide | null) => void;
  setTriedGain: (triedGainDb: number) => void;
  setElsewhere: (elsewhere: PlaceId | null) => void;
}

const AT_FIRST = {
  mono: false,
  before: false,
  matchedGainDb: 0,
  probe: null,
  earshot: null,
  key: null,
  draftId: null,
  draftGainDb: 0,
  trimDb: 0,
  test: null,
  triedGainDb: 0,
  elsewhere: null,
  elsewhereGainDb: 0,
} as const;

export const useListening = deskStore<Listening>((desk) => (set) => ({
  ...AT_FIRST,
  scope: 'mix',
  isMatched: true,
  isEarshotMatched: false,
  setMono: (mono) => set({ mono }),
  setBefore: (before) => set({ before, matchedGainDb: matchedGainNow(desk) }),
  setScope: (scope) => {
    set({ scope });
    set({ matchedGainDb: matchedGainNow(desk) });
  },
  setMatched: (isMatched) => set({ isMatched }),
  setProbe: (probe) => set({ probe }),
  setEarshot: (earshot) => set({ earshot }),
  setEarshotMatched: (isEarshotMatched) => set({ isEarshotMatched }),
  hearKey: (key) => set({ key }),
  hearDraft: (draftId) => set({ draftId, draftGainDb: draftId ? draftGainNow(desk, draftId) : 0 }),
  setTrim: (trimDb) => set({ trimDb }),
  setTest: (test) => set({ test }),
  setTriedGain: (triedGainDb) => set({ triedGainDb }),
  setElsewhere: (elsewhere) => set({ elsewhere, elsewhereGainDb: elsewhereGainNow(desk, elsewhere) }),
}));

/** What "before" leaves out of the song as it is chosen now. */
export function scopeNow(desk: Desk): Scope {
  const { scope } = useListening.of(desk);
  if (scope === 'mix') return { kind: 'mix' };
  // Where there is none, nothing is left out.
  if (scope === 'passage') return { kind: 'passage', passageId: passageNow(desk)?.id ?? '' };
  const { strip, band } = chosenBand(desk);
  const processor = chosenProcessor(desk);
  if (scope === 'processor' && processor) return { kind: 'processor', stripId: strip.id, processorId: processor.id };
  return scope === 'band' && band
    ? { kind: 'band', stripId: strip.id, bandId: band.id }
    : { kind: 'strip', stripId: strip.id };
}

/** The strip on which a scope's loudness is matched, so that the rest of the mix stays as it is. */
export const scopeTarget = (scope: Scope): string => ('stripId' in scope ? scope.stripId : MASTER_ID);

/** The song as loudness is matched in it: over a passage where that is what is compared. */
function listenedTo(song: Song, scope: Scope): Song {
  const passage = scope.kind === 'passage' && song.passages.find(({ id }) => id === scope.passageId);
  if (!passage) return song;
  const { startSeconds, endSeconds } = passage;
  return { ...song, loop: { startSeconds, endSeconds, enabled: true } };
}

/** What brings a song without something to the loudness that it has with it, dB. */
export function matchedGainFor(desk: Desk, scope: Scope): number {
  const song = listenedTo(documentOf(desk), scope);
  const { levels } = useAnalyses.of(desk);
  const part = { stripId: scopeTarget(scope), measures: useStripMeasures.of(desk).measures };
  return matchingGainDb(partLufs(song, levels, { ...part, without: scope }), partLufs(song, levels, part));
}

/** Loudness of the mix as it stands, over what is listened to, LUFS. */
export const mixLufsNow = (desk: Desk) => {
  const { measures } = useStripMeasures.of(desk);
  return partLufs(documentOf(desk), useAnalyses.of(desk).levels, { stripId: MASTER_ID, measures });
};

const matchedGainNow = (desk: Desk) => matchedGainFor(desk, scopeNow(desk));

/** The song with the settings of a draft; the song as it stands where the draft is gone. */
export function songWithDraft(song: Song, draftId: string | null): Song {
  const draft = song.drafts.find(({ id }) => id === draftId);
  return draft ? { ...song, ...draft.settings } : song;
}

/** What brings a draft to the loudness of the song as it stands, dB. */
export function draftGainNow(desk: Desk, draftId: string): number {
  const { levels } = useAnalyses.of(desk);
  const whole = { stripId: MASTER_ID, measures: useStripMeasures.of(desk).measures };
  return matchingGainDb(
    partLufs(songWithDraft(documentOf(desk), draftId), levels, whole),
    partLufs(documentOf(desk), levels, whole),
  );
}

/** What brings a moment of the past to the loudness of the song as it is now, dB. */
function visitedGainNow(desk: Desk): number {
  const { levels } = useAnalyses.of(desk);
  const whole = { stripId: MASTER_ID, measures: useStripMeasures.of(desk).measures };
  return matchingGainDb(partLufs(documentOf(desk), levels, whole), partLufs(songNow(desk), levels, whole));
}

/** A song as a place colours it: its filters behind the master's chain. */
function songIn(song: Song, elsewhere: PlaceId): Song {
  const bands = placeOf(elsewhere).bands.map((band, i) => ({ ...band, id: `${elsewhere} ${i}`, letter: 'A' }));
  const { master } = song;
  return { ...song, master: { ...master, chain: [...master.chain, { ...emptyEqualizer(elsewhere), bands }] } };
}

function elsewhereGainNow(desk: Desk, elsewhere: PlaceId | null): number {
  if (!elsewhere) return 0;
  const { levels } = useAnalyses.of(desk);
  const whole = { stripId: MASTER_ID, measures: useStripMeasures.of(desk).measures };
  const song = documentOf(desk);
  return matchingGainDb(partLufs(songIn(song, elsewhere), levels, whole), partLufs(song, levels, whole));
}

function earshotGain(desk: Desk, song: Song, earshot: Earshot): number {
  const { levels } = useAnalyses.of(desk);
  const { stripId, lowHz, highHz } = earshot;
  const part = { stripId, measures: useStripMeasures.of(desk).measures };
  return matchingGainDb(partLufs(song, levels, { ...part, lowHz, highHz }), partLufs(song, levels, part));
}

/** The song that is heard, and how. @param shown the song as it is shown */
export function hearingOf(desk: Desk, shown: Song): { song: Song; hearing: Hearing } {
  const {
    mono,
    before,
    isMatched,
    matchedGainDb,
    probe,
    earshot,
    key,
    isEarshotMatched,
    draftId,
    draftGainDb,
    trimDb,
    test,
    elsewhere,
    elsewhereGainDb,
    triedGainDb,
  } = useListening.of(desk);
  if (test) {
    const { [MASTER_ID]: whole = 0, ...others } = test.trimsDb;
    const trimsDb = elsewhere ? { ...others, [MASTER_ID]: whole + elsewhereGainDb } : test.trimsDb;
    return {
      song: songWithDraft(shown, test.draftId),
      hearing: { ...PLAIN_HEARING, mono, elsewhere, without: test.without, trimsDb },
    };
  }
  const { moment, isHeard } = useVisited.of(desk);
  if (moment && !isHeard) return { song: songNow(desk), hearing: { ...PLAIN_HEARING, mono, elsewhere, trimsDb: {} } };
  const song = songWithDraft(shown, draftId);
  const without = before ? scopeNow(desk) : null;
  const trims: Record<string, number> = {};
  const add = (stripId: string, db: number) => {
    if (db !== 0) trims[stripId] = (trims[stripId] ?? 0) + db;
  };
  add(MASTER_ID, trimDb + triedGainDb);
  if (elsewhere) add(MASTER_ID, elsewhereGainDb);
  if (without && isMatched) add(scopeTarget(without), matchedGainDb);
  // A draft that was removed is heard no more, and nothing is made up for it.
  if (song !== shown && isMatched) add(MASTER_ID, draftGainDb);
  if (moment && isMatched) add(MASTER_ID, visitedGainNow(desk));
  if (earshot && isEarshotMatched) add(MASTER_ID, earshotGain(desk, song, earshot));
  return { song, hearing: { without, probe, earshot, key, mono, elsewhere, trimsDb: trims } };
}

/** The matched gain is worked out anew when nothing has changed for this long. */
const REST_MS = 150;

/** Keeps the matched gains at what the song asks for. */
export function followMatchedGain(desk: Desk): void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const match = () => {
    const now = useListening.of(desk);
    const matchedGainDb = matchedGainNow(desk);
    const elsewhereGainDb = elsewhereGainNow(desk, now.elsewhere);
    if (matchedGainDb !== now.matchedGainDb || elsewhereGainDb !== now.elsewhereGainDb)
      useListening.api(desk).setState({ matchedGainDb, elsewhereGainDb });
  };
  const later = () => {
    clearTimeout(timer);
    timer = setTimeout(match, REST_MS);
  };
  later();
  const endings = [
    liveSong(desk).follow(later),
    useSelection.api(desk).subscribe(later),
    useAnalyses.api(desk).subscribe(later),
  ];
  desk.onEnd(() => {
    clearTimeout(timer);
    endings.forEach((end) => end());
  });
}
