import { rowsOver, type StepRange } from '@/core/measure';
import {
  isEstimated,
  listenedRange,
  measureDependsOn,
  measuredStrips,
  NOTHING_MEASURED,
  type BandLevels,
  type StripMeasure,
  type StripMeasures,
} from '@/core/mix';
import { tracksWithin, type Song } from '@/core/song';
import { isSameList } from '../../kit/axis/still';
import { deskStore, type Desk } from '../desk/desk';
import { onServerBack } from '../outbox/link';
import { documentOf } from '../song/live-song';
import { useSong, useSongStore } from '../song/song-store';
import { useAnalyses } from './analyses';
import { measureStrip, type MeasuredSoFar, type MeasuredStrip } from './measure-strip';

/** What was measured from the sound of strips that react to levels, and of sums, in the background. */
interface StripMeasuresStore {
  measures: StripMeasures;
  /** The levels over time that they name. */
  levels: BandLevels;
}

export const useStripMeasures = deskStore<StripMeasuresStore>(() => () => ({ measures: NOTHING_MEASURED, levels: {} }));

/** It is measured when nothing has changed for so long. */
const REST_MS = 700;

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
    const levelsId = `${next.id} measured ${++this.count}`;
    try {
      const measured = await measureStrip(song, next.id, range, levelsId, abort.signal);
      if (!abort.signal.aborted) this.store(next.id, dependsOn, measured(this.soFar));
    } catch {
      // What is shown stays an estimate, and says so.
      if (!abort.signal.aborted) this.failed.set(next.id, dependsOn);
    }
    this.asked = null;
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.measureNext(), abort.signal.aborted ? REST_MS : 0);
  }

  private get soFar(): MeasuredSoFar {
    const { measures, levels } = useStripMeasures.of(this.desk);
    return { measures, levels: { ...useAnalyses.of(this.desk).levels, ...levels } };
  }

  private store(stripId: string, dependsOn: readonly unknown[], { measure, rows }: MeasuredStrip): void {
    const store = useStripMeasures.api(this.desk);
    this.known.set(stripId, { dependsOn, measure });
    if (measure.levelsId && rows)
      store.setState(({ levels }) => ({ levels: { ...levels, [measure.levelsId!]: [rows] } }));
    const song = documentOf(this.desk);
    this.tell(song, listenedRange(song));
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
