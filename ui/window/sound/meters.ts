import { wrap, type Remote } from 'comlink';
import { RING_SAMPLES, type AudioSession } from '@/audio/session';
import { openWorker } from '@/audio/open-worker';
import { MASTER_ID } from '@/core/song';
import type { LiveFigures, LiveMeters } from '@/workers/live-meters';
import { tell } from '../notices/notices';
import { deskStore, type Desk } from '../desk/desk';
import { songOf } from '../song/live-song';
import { useSelection } from '../song/selection';
import { frameStrain } from '../../kit/frames/use-frames';

/** The standard meters of what plays: of the mix as it is heard, or of the chosen track or bus. */
interface Meters {
  subject: 'mix' | 'chosen';
  figures: LiveFigures | null;
  setSubject: (subject: 'mix' | 'chosen') => void;
}

export const useMeters = deskStore<Meters>((desk) => (set) => ({
  subject: 'mix',
  figures: null,
  setSubject: (subject) => {
    set({ subject });
    metering(desk).point();
  },
}));

const MEASURED_EVERY_MS = 60;
/** What lies in the rings must be read before it is written over. */
const LONGEST_PAUSE_MS = 200;

class Metering {
  private remote: Remote<LiveMeters> | null = null;
  private session: AudioSession | null = null;
  private isMeasuring = false;
  private measuredAt = 0;

  constructor(private readonly desk: Desk) {}

  open(session: AudioSession): void {
    const worker = openWorker('/audio/live-meters.js', (message) => tell(this.desk, message, 'error'));
    this.remote = wrap<LiveMeters>(worker);
    this.session = session;
    this.point();
    const end = useSelection
      .api(this.desk)
      .subscribe(
        (now, before) => now.stripId !== before.stripId && useMeters.of(this.desk).subject === 'chosen' && this.point(),
      );
    this.desk.onEnd(() => {
      end();
      worker.terminate();
      this.remote = this.session = null;
    });
  }

  /** Turns the meters to what they are to measure, and begins anew. */
  point(): void {
    if (!this.session || !this.remote) return;
    const stripId = useMeters.of(this.desk).subject === 'mix' ? MASTER_ID : useSelection.of(this.desk).stripId;
    const [left, right] = [new SharedArrayBuffer(RING_SAMPLES * 4), new SharedArrayBuffer(RING_SAMPLES * 4)];
    this.session.setMonitor(stripId === MASTER_ID ? null : stripId, left, right);
    void this.remote.setRing(songOf(this.desk).rateHz, left, right, this.session.state.tapPosition);
    this.show(null);
  }

  forget(): void {
    if (!this.session) return;
    void this.remote?.forget(this.session.state.tapPosition);
    this.show(null);
  }

  async refresh(milliseconds: number): Promise<void> {
    const { remote, session } = this;
    if (!remote || !session?.state.isPlaying) return;
    const pause = Math.min(LONGEST_PAUSE_MS, MEASURED_EVERY_MS * frameStrain());
    if (this.isMeasuring || milliseconds - this.measuredAt < pause) return;
    this.measuredAt = milliseconds;
    this.isMeasuring = true;
    try {
      this.show(await remote.measure(session.state.tapPosition));
    } finally {
      this.isMeasuring = false;
    }
  }

  private show(figures: LiveFigures | null): void {
    useMeters.api(this.desk).setState({ figures });
  }
}

const makeMetering = (desk: Desk) => new Metering(desk);
const metering = (desk: Desk) => desk.part(makeMetering);

export const openMeters = (desk: Desk, session: AudioSession) => metering(desk).open(session);

/** Begins to measure anew. */
export const forgetMeters = (desk: Desk) => metering(desk).forget();

/** Asks for new figures while it plays; at most one request at a time. */
export const refreshMeters = (desk: Desk, milliseconds: number) => metering(desk).refresh(milliseconds);
