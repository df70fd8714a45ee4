import { wrap, type Remote } from 'comlink';
import { create } from 'zustand';
import { RING_SAMPLES, type AudioSession } from '@/audio/session';
import { MASTER_ID } from '@/core/song';
import type { LiveFigures, LiveMeters } from '@/workers/live-meters';
import { currentSong, useSelection } from '../song';

/** The standard meters of what plays: of the mix as it is heard, or of the chosen track or bus. */
interface Meters {
  subject: 'mix' | 'chosen';
  figures: LiveFigures | null;
  setSubject: (subject: 'mix' | 'chosen') => void;
}

export const useMeters = create<Meters>((set) => ({
  subject: 'mix',
  figures: null,
  setSubject: (subject) => {
    set({ subject });
    point();
  },
}));

let worker: Worker | null = null;
let remote: Remote<LiveMeters> | null = null;
let session: AudioSession | null = null;
let isMeasuring = false;
let measuredAt = 0;
const MEASURED_EVERY_MS = 60;

/** The strip that is measured; the master is the mix. */
export function meteredStrip(): string {
  return useMeters.getState().subject === 'mix' ? MASTER_ID : useSelection.getState().stripId;
}

/** Turns the meters to what they are to measure, and begins anew. */
function point(): void {
  if (!session || !remote) return;
  const stripId = meteredStrip();
  const [left, right] = [new SharedArrayBuffer(RING_SAMPLES * 4), new SharedArrayBuffer(RING_SAMPLES * 4)];
  session.setMonitor(stripId === MASTER_ID ? null : stripId, left, right);
  void remote.setRing(currentSong().rateHz, left, right, session.state.tapPosition);
  useMeters.setState({ figures: null });
}

export function openMeters(opened: AudioSession): () => void {
  worker = new Worker('/audio/live-meters.js');
  remote = wrap<LiveMeters>(worker);
  session = opened;
  useMeters.setState({ figures: null });
  point();
  const end = useSelection.subscribe(
    (now, before) => now.stripId !== before.stripId && useMeters.getState().subject === 'chosen' && point(),
  );
  return () => {
    end();
    worker?.terminate();
    worker = remote = session = null;
  };
}

/** Begins to measure anew. */
export function forgetMeters(): void {
  if (!session) return;
  void remote?.forget(session.state.tapPosition);
  useMeters.setState({ figures: null });
}

/** Asks for new figures while it plays; at most one request at a time. */
export async function refreshMeters(milliseconds: number): Promise<void> {
  if (!remote || !session?.state.isPlaying || isMeasuring || milliseconds - measuredAt < MEASURED_EVERY_MS) return;
  measuredAt = milliseconds;
  isMeasuring = true;
  try {
    useMeters.setState({ figures: await remote.measure(session.state.tapPosition) });
  } finally {
    isMeasuring = false;
  }
}
