import { wrap, type Remote } from 'comlink';
import { openWorker } from '@/audio/open-worker';
import { OrvidError } from '@/core/errors';
import {
  claimingGroups,
  measuredStrips,
  mixTracksOver,
  wholeRange,
  type Clearance,
  type ClaimingTrack,
  type StripMeasure,
} from '@/core/mix';
import { isOneSource, type LevelRows } from '@/core/measure';
import { kinOf, type Song } from '@/core/song';
import type { MixWorker } from '@/workers/mix';
import { Unreachable } from '../server/request';
import { alignmentsOf, nextPair } from './judge-pairs';
import { measureStrip } from './measure-strip';
import { requestLevels, wholeStretch } from './stretches';

/** The clearances of a song without and with its chains, over all of it. */
export interface WholeClearances {
  before: Record<string, Clearance | null>;
  after: Record<string, Clearance | null>;
  /** True as long as what reacts to levels, or is one source in two recordings, is not measured. */
  isEstimated: boolean;
}

/** What is known of a song while more and more of it is measured. */
class WholeSong {
  readonly levels: Record<string, readonly LevelRows[]> = {};
  readonly measures = new Map<string, StripMeasure>();
  /** Pairs of recordings of one source, and all that were looked at. */
  private readonly oneSource = new Set<string>();
  private readonly judged = new Set<string>();

  constructor(
    private readonly song: Song,
    private readonly remote: Remote<MixWorker>,
    /** Rejects when the worker cannot answer any more. */
    private readonly failure: Promise<never>,
    private readonly signal: AbortSignal,
  ) {}

  private answered<T>(answer: Promise<T>): Promise<T> {
    return Promise.race([answer, this.failure]);
  }

  async give(audioId: string, rows: LevelRows): Promise<void> {
    this.signal.throwIfAborted();
    this.levels[audioId] = [rows];
    await this.answered(this.remote.setLevels(audioId, this.levels[audioId]));
  }

  async clearances(isPlain: boolean): Promise<Record<string, Clearance | null>> {
    const { song, measures, oneSource } = this;
    const tracks = mixTracksOver(song, wholeRange(song), { isPlain, measures }).map((track, i): ClaimingTrack => ({
      ...track,
      claims: song.tracks[i].claims,
      kin: kinOf(song, song.tracks[i], oneSource).map(({ id }) => id),
    }));
    return (await this.answered(this.remote.update(tracks, wholeRange(song), claimingGroups(song)))).clearances;
  }

  /** What reacts and what adds up is measured from the sound, each strip after what feeds it. */
  async measureStrips(): Promise<void> {
    for (const { id } of measuredStrips(this.song)) {
      const measured = await measureStrip(this.song, id, wholeRange(this.song), `${id} measured`, this.signal);
      const { measure, rows } = measured(this);
      this.measures.set(id, measure);
      if (rows) await this.give(measure.levelsId!, rows);
    }
  }

  /** Looks at tracks that rise and fall together, until all that may be one source are judged. Asks about what was measured last. */
  async judgePairs(): Promise<void> {
    for (;;) {
      const next = nextPair(this.song, await this.answered(this.remote.alikePairs()), (key) => this.judged.has(key));
      if (!next) return;
      const [alignment] = await alignmentsOf(this.song, next.trackIds, this.levels, null, this.signal);
      this.judged.add(next.key);
      if (isOneSource(alignment)) this.oneSource.add(next.key);
    }
  }
}

/** What is said of recordings whose levels cannot be had. */
function leftOut([first, ...others]: readonly Error[]): OrvidError {
  const more = others.length === 0 ? '' : ` The same holds for ${others.length} more.`;
  const what = `Clearances are estimated as if ${others.length === 0 ? 'it' : 'they'} were silent.`;
  return new OrvidError(first instanceof OrvidError ? first.code : 'internal', `${first.message}${more} ${what}`);
}

/**
 * Clearances over a whole song: an estimate at once, then as they are with what is measured from the sound. A recording whose levels cannot
 * be had is left out.
 * @param hear is told both, one after the other
 * @throws OrvidError what the server said, in the end where it is about one recording; or that it cannot be reached
 */
export async function wholeClearances(
  song: Song,
  signal: AbortSignal,
  hear: (found: WholeClearances) => void,
): Promise<void> {
  let failed = (_: Error) => {};
  const failure = new Promise<never>((_, reject) => (failed = reject));
  failure.catch(() => undefined);
  const worker = openWorker('/audio/mix.js', (message) => failed(new OrvidError('internal', message)));
  try {
    const whole = new WholeSong(song, wrap<MixWorker>(worker), failure, signal);
    const faults: Error[] = [];
    const audioIds = [...new Set(song.tracks.map((track) => track.audioId))];
    for (const [audioId, asked] of requestLevels(audioIds, wholeStretch(song))) {
      const rows = await asked.catch((error: Error) => {
        if (error instanceof Unreachable) throw error;
        faults.push(error);
        return null;
      });
      if (rows) await whole.give(audioId, rows);
    }
    const tell = async (isEstimated: boolean) => {
      const [before, after] = [await whole.clearances(true), await whole.clearances(false)];
      signal.throwIfAborted();
      hear({ before, after, isEstimated });
    };
    await tell(true);
    if (faults.length > 0) throw leftOut(faults);
    await whole.measureStrips();
    await whole.clearances(false);
    await whole.judgePairs();
    await tell(false);
  } finally {
    worker.terminate();
  }
}
