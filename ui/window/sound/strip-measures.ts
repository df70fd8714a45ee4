import { rowsOver, type StepRange } from '@/core/measure';
import {
  addedDb,
  beyondDb,
  chainResponseDb,
  feedingPart,
  isEstimated,
  listenedRange,
  measureDependsOn,
  measuredStrips,
  NOTHING_MEASURED,
  reactivePart,
  type BandLevels,
  type StripLevels,
  type StripMeasure,
  type StripMeasures,
} from '@/core/mix';
import { findStrip, stripChannels, tracksWithin, type Song } from '@/core/song';
import { isSameList } from '../../kit/axis/still';
import { deskStore, type Desk } from '../desk/desk';
import { onServerBack } from '../outbox/link';
import { request } from '../server/request';
import { documentOf } from '../song/live-song';
import { useSong, useSongStore } from '../song/song-store';
import { useAnalyses } from './analyses';

/** What was measured from the sound of strips that react to levels, and of sums, in the background. */
interface StripMeasuresStore {
  measures: StripMeasures;
  /** The levels over time that they name. */
  levels: BandLevels;
}

export const useStripMeasures = deskStore<StripMeasuresStore>(() => () => ({ measures: NOTHING_MEASURED, levels: {} }));

/** It is measured when nothing has changed for so long. */
const REST_MS = 700;

type Answer = StripLevels & { rows: string; stepsPerRow: number };

class MeasuringStrips {
  private readonly known = new Map<string, { dependsOn: readonly unknown[]; measure: StripMeasure }>();
  /** What could not be measured. */
  private readonly failed = new Map<string, readonly unknown[]>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private asked: { stripId: string; dependsOn: readonly unknown[]; abort: AbortController } | null = null;
  private count = 0;

  constructor(private readonly desk: Desk) {}

  follow(): void {
    const { desk } = this;
    const endings = [
      useSongStore.api(desk).subscribe((now, before) => now.state.song !== before.state.song && this.changed()),
      useAnalyses.api(desk).subscribe((now, before) => now.levels !== before.levels && this.changed()),
    ];
    onServerBack(desk, () => {
      this.failed.clear();
      this.changed();
    });
    this.changed();
    desk.onEnd(() => {
      endings.forEach((end) => end());
      clearTimeout(this.timer);
      this.asked?.abort.abort();
    });
  }

  private changed(): void {
    const song = documentOf(this.desk);
    const range = listenedRange(song);
    if (this.asked && !isSameList(this.asked.dependsOn, measureDependsOn(song, this.asked.stripId, range)))
      this.asked.abort.abort();
    this.tell(song, range);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.measureNext(), REST_MS);
  }

  /** Which measures are still true is seen at once. */
  private tell(song: Song, range: StepRange): void {
    const wanted = new Set(measuredStrips(song).map(({ id }) => id));
    const store = useStripMeasures.api(this.desk);
    const before = store.getState().measures;
    for (const id of this.known.keys()) if (!wanted.has(id)) this.known.delete(id);
    for (const [id, known] of this.known) {
      const isCurrent = isSameList(known.dependsOn, measureDependsOn(song, id, range));
      if (isCurrent !== known.measure.isCurrent) known.measure = { ...known.measure, isCurrent };
    }
    const measures = new Map([...this.known].map(([id, { measure }]) => [id, measure] as const));
    const isSame = measures.size === before.size && [...measures].every(([id, measure]) => before.get(id) === measure);
    if (isSame) return;
    const named = new Set([...measures.values()].map(({ levelsId }) => levelsId));
    const levels = Object.fromEntries(Object.entries(store.getState().levels).filter(([id]) => named.has(id)));
    store.setState({ measures, levels });
  }

  /** One strip after the other, each after what feeds it; a sum when the levels of what runs into it are here. */
  private async measureNext(): Promise<void> {
    if (this.asked) return;
    const song = documentOf(this.desk);
    const range = listenedRange(song);
    const { levels } = useAnalyses.of(this.desk);
    const isHere = (id: string) =>
      tracksWithin(song, id).every(({ audioId }) => rowsOver(levels[audioId] ?? [], range) !== undefined);
    const next = measuredStrips(song).find(({ id }) => {
      if (!isHere(id)) return false;
      const dependsOn = measureDependsOn(song, id, range);
      const failed = this.failed.get(id);
      return !this.known.get(id)?.measure.isCurrent && !(failed && isSameList(failed, dependsOn));
    });
    if (!next || range.to <= range.from) return;
    const dependsOn = measureDependsOn(song, next.id, range);
    this.asked = { stripId: next.id, dependsOn, abort: new AbortController() };
    const { abort } = this.asked;
    try {
      const question = { song: feedingPart(song, [next.id]), stripId: next.id, range };
      const answer = await request<Answer>('POST', '/api/measures/levels', question, abort.signal);
      if (!abort.signal.aborted) this.take(song, next.id, range, dependsOn, answer);
    } catch {
      // What is shown stays an estimate, and says so.
      if (!abort.signal.aborted) this.failed.set(next.id, dependsOn);
    }
    this.asked = null;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.measureNext(), abort.signal.aborted ? REST_MS : 0);
  }

  private take(song: Song, stripId: string, range: StepRange, dependsOn: readonly unknown[], answer: Answer): void {
    const strip = findStrip(song, stripId)!;
    const { desk } = this;
    const of = reactivePart(strip.chain);
    const store = useStripMeasures.api(desk);
    const isTrack = 'audioId' in strip;
    const levelsId = isTrack && of.length > 0 ? `${stripId} measured ${++this.count}` : null;
    const response = chainResponseDb(of, stripChannels(strip), song.rateHz);
    const known = store.getState();
    const others = new Map([...known.measures].filter(([id]) => id !== stripId));
    const measure: StripMeasure = {
      of,
      beyondDb: beyondDb(answer.inDb, answer.outDb, response),
      addedDb: isTrack
        ? null
        : addedDb(song, stripId, answer.inDb, { ...useAnalyses.of(desk).levels, ...known.levels }, range, others),
      levelsId,
      isCurrent: true,
    };
    this.known.set(stripId, { dependsOn, measure });
    const bytes = Uint8Array.from(atob(answer.rows), (character) => character.charCodeAt(0));
    const rows = { bytes, firstStep: range.from, endStep: range.to, stepsPerRow: answer.stepsPerRow };
    if (levelsId) store.setState({ levels: { ...known.levels, [levelsId]: [rows] } });
    this.tell(documentOf(desk), listenedRange(documentOf(desk)));
  }
}

/** True where what is shown of levels is an estimate, until it is measured. */
export function useEstimated(): boolean {
  const measures = useStripMeasures((store) => store.measures);
  return useSong((song) => isEstimated(song, measures));
}

const makeMeasuring = (desk: Desk) => new MeasuringStrips(desk);

/** Measures strips in the background until the desk ends. */
export const followStrips = (desk: Desk) => desk.part(makeMeasuring).follow();
