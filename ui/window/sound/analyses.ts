import type { LevelRows, RecordingAnalysis } from '@/core/measure';
import type { BandLevels } from '@/core/mix';
import type { Song } from '@/core/song';
import { deskStore, type Desk } from '../desk/desk';
import { tell } from '../notices/notices';
import { onServerBack } from '../outbox/link';
import { analysisUrl, overviewUrl } from '../server/measured-urls';
import { request, Unreachable } from '../server/request';
import { areEnough, requestLevels, stretchesOf, type Stretch } from './stretches';

/** What was measured of the recordings of the song, by recording: figures, and the waveform in one coarse level. */
export type Analyses = Readonly<Record<string, RecordingAnalysis>>;

interface AnalysesStore {
  byAudio: Analyses;
  /** By recording: of all of it, and of what is looped. */
  levels: BandLevels;
  /** Recordings whose levels could not be had. */
  failed: readonly string[];
  /** Asks for what a song needs and is not here yet. */
  need: (song: Song) => void;
}

/** What arrives is taken together, when all is here that was asked for or after so long: everything is measured and drawn anew with it. */
const TOGETHER_MS = 700;
/** Of a recording no more stretches are kept than the whole and the last ones that were looped. */
const MOST_STRETCHES = 4;

export const useAnalyses = deskStore<AnalysesStore>((desk) => (set, get) => {
  const asked = new Set<string>();
  const askedLevels = new Set<string>();
  let hasOverview: Promise<unknown> | null = null;
  let arrived: ((state: AnalysesStore) => Partial<AnalysesStore>)[] = [];
  let waiting: ReturnType<typeof setTimeout> | undefined;
  desk.onEnd(() => clearTimeout(waiting));
  let onTheirWay = 0;
  const takeAll = () => {
    clearTimeout(waiting);
    waiting = undefined;
    const changes = arrived;
    arrived = [];
    if (changes.length > 0) set((state) => changes.reduce((now, change) => ({ ...now, ...change(now) }), state));
  };
  /** Waits for an answer. @param taken makes a change of it */
  const follow = <T>(
    answer: Promise<T>,
    taken: (value: T) => (typeof arrived)[number],
    failed: (error: Error) => void,
  ) => {
    onTheirWay++;
    void answer
      .then((value) => void arrived.push(taken(value)), failed)
      .finally(() => {
        if (--onTheirWay === 0) takeAll();
        else waiting ??= setTimeout(takeAll, TOGETHER_MS);
      });
  };

  const askFigures = (audioId: string) => {
    follow(
      request<RecordingAnalysis>('GET', analysisUrl(audioId)),
      (analysis) =>
        ({ byAudio }) => ({ byAudio: { ...byAudio, [audioId]: analysis } }),
      () => asked.delete(audioId),
    );
  };
  /** The recordings that the song has when it is opened come in one answer, what is added later one by one. */
  const needFigures = (audioIds: readonly string[]) => {
    const wanted = audioIds.filter((audioId) => !asked.has(audioId));
    wanted.forEach((audioId) => asked.add(audioId));
    if (wanted.length === 0) return;
    hasOverview ??= request<Analyses>('GET', overviewUrl(desk.songId)).then(
      (overview) => set(({ byAudio }) => ({ byAudio: { ...byAudio, ...overview } })),
      () => undefined,
    );
    void hasOverview.then(() => wanted.filter((audioId) => !(audioId in get().byAudio)).forEach(askFigures));
  };

  const takeLevels = (audioId: string, asked: Promise<LevelRows>, forgetAsking: () => void) =>
    follow(
      asked,
      (rows) =>
        ({ levels }) => {
          forgetAsking();
          return { levels: { ...levels, [audioId]: keptStretches([rows, ...(levels[audioId] ?? [])]) } };
        },
      // It is not asked for again and again, since it may have failed on the server; but when the server was away, once it is back.
      (error) => {
        if (get().failed.includes(audioId)) return;
        set({ failed: [...get().failed, audioId] });
        // The foot says that the server is gone; it is asked again when it is back.
        if (error instanceof Unreachable) return;
        const what = 'The loudness of a recording could not be worked out, so levels are not matched for it.';
        tell(desk, `${what} ${error.message} Reload the page to try again.`, 'error');
      },
    );
  const needLevels = (audioIds: readonly string[], stretch: Stretch) => {
    const keyOf = (audioId: string) => `${audioId} ${stretch.from} ${stretch.to} ${stretch.stepsPerRow}`;
    const wanted = audioIds.filter(
      (audioId) => !askedLevels.has(keyOf(audioId)) && !areEnough(get().levels[audioId] ?? [], stretch),
    );
    for (const [audioId, asked] of requestLevels(wanted, stretch)) {
      askedLevels.add(keyOf(audioId));
      takeLevels(audioId, asked, () => askedLevels.delete(keyOf(audioId)));
    }
  };
  let needed: Song | null = null;
  onServerBack(desk, () => {
    const again = get().failed;
    set({ failed: [] });
    for (const key of askedLevels) if (again.some((audioId) => key.startsWith(audioId))) askedLevels.delete(key);
    if (needed) get().need(needed);
  });
  return {
    byAudio: {},
    levels: {},
    failed: [],
    need: (song) => {
      needed = song;
      const audioIds = [...new Set(song.tracks.map(({ audioId }) => audioId))];
      needFigures(audioIds);
      for (const stretch of stretchesOf(song)) needLevels(audioIds, stretch);
    },
  };
});

/** The newest stretches of a recording, and the whole of it whatever its age. */
function keptStretches(rows: readonly LevelRows[]): LevelRows[] {
  const whole = rows.find(({ endStep }) => endStep === Infinity);
  return rows.filter((stretch, i) => stretch === whole || (stretch.endStep !== Infinity && i < MOST_STRETCHES));
}

/** Waits until the levels of these recordings, from their beginnings to their ends, are here, or are known not to come. */
export function levelsSettled(desk: Desk, audioIds: readonly string[]): Promise<void> {
  const isSettled = ({ levels, failed }: AnalysesStore) =>
    audioIds.every(
      (audioId) => levels[audioId]?.some(({ endStep }) => endStep === Infinity) || failed.includes(audioId),
    );
  return new Promise((settle) => {
    const store = useAnalyses.api(desk);
    if (isSettled(store.getState())) return settle();
    const stop = store.subscribe((state) => {
      if (!isSettled(state)) return;
      stop();
      settle();
    });
  });
}
