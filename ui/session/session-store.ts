import { wrap, type Remote } from 'comlink';
import { create } from 'zustand';
import { AudioSession } from '@/audio/session';
import { fromDb } from '@/core/engine';
import { matchedGainDb } from '@/core/measure';
import { songLengthFrames, type Song, type Strip } from '@/core/song';
import type { LiveSpectra } from '@/workers/live-spectra';
import { useSongStore, currentSong, useSelection } from '../song';
import { useAnalyses } from './analyses';
import { mixSpectrum } from './spectra';

/** What is heard in this window, and how: play state, before or after, mono. Not part of the song. */
interface SessionStore {
  isPlaying: boolean;
  /** 0 to 1: how much of the sound has arrived. */
  loading: number;
  before: boolean;
  mono: boolean;
  /** What brings "before" to the loudness of "after", dB. */
  matchedGainDb: number;
  /** How late each equalizer of linear phase is, and how far its level strays, by the equalizer's id. */
  latencies: Readonly<Record<string, { seconds: number; worstErrorDb: number }>>;
  togglePlay: () => void;
  seek: (seconds: number) => void;
  toggleLoop: () => void;
  setBefore: (before: boolean) => void;
  setMono: (mono: boolean) => void;
}

let session: AudioSession | null = null;
let liveSpectra: Remote<LiveSpectra> | null = null;

/** The audio of this window, for what is drawn while it plays. Null before a song is open. */
export const audioState = () => session?.state ?? null;

/** Seconds at which the song stands. */
export function positionSeconds(): number {
  return session ? session.state.position / currentSong().rateHz : 0;
}

export const useSession = create<SessionStore>((set, get) => ({
  isPlaying: false,
  loading: 0,
  before: false,
  mono: false,
  matchedGainDb: 0,
  latencies: {},
  togglePlay: () => {
    if (!session) return;
    const isPlaying = !get().isPlaying;
    set({ isPlaying });
    if (!isPlaying) {
      session.stop();
      return;
    }
    if (session.state.position >= songLengthFrames(currentSong())) session.seek(0);
    session.play().catch((error: Error) => {
      set({ isPlaying: false });
      useSongStore.getState().tell(`Sound could not be started (${error.message}).`, 'error');
    });
  },
  seek: (seconds) => {
    const { rateHz } = currentSong();
    const frame = Math.min(songLengthFrames(currentSong()), Math.max(0, Math.round(seconds * rateHz)));
    session?.seek(frame);
  },
  toggleLoop: () => {
    const song = currentSong();
    const lengthSeconds = songLengthFrames(song) / song.rateHz;
    if (lengthSeconds === 0) return;
    const loop = song.loop ?? { startSeconds: 0, endSeconds: lengthSeconds, enabled: false };
    useSongStore.getState().edit({ kind: 'song.set', changes: { loop: { ...loop, enabled: !loop.enabled } } }, 'Loop');
  },
  setBefore: (before) => {
    set({ before });
    tellListening();
  },
  setMono: (mono) => {
    set({ mono });
    tellListening();
  },
}));

function tellListening(): void {
  const { before, mono, matchedGainDb: gainDb } = useSession.getState();
  session?.setListening({ before, mono, beforeGain: fromDb(gainDb) });
}

function tellLoop(song: Song): void {
  const { loop, rateHz } = song;
  session?.setLoop(
    loop?.enabled ? { start: Math.round(loop.startSeconds * rateHz), end: Math.round(loop.endSeconds * rateHz) } : null,
  );
}

function updateMatchedGain(): void {
  useSession.setState({ matchedGainDb: matchedGainDb([mixSpectrum(currentSong(), useAnalyses.getState().byAudio)]) });
  if (useSession.getState().before) tellListening();
}

/** Opens the sound of the song that is in the store, and follows it. @returns what ends it */
export function startSession(): () => void {
  const { tell } = useSongStore.getState();
  const worker = new Worker('/audio/live-spectra.js');
  liveSpectra = wrap<LiveSpectra>(worker);
  const { rateHz } = currentSong();
  session = new AudioSession(rateHz, {
    onLoading: (loading) => useSession.setState({ loading }),
    onError: (message) => tell(message, 'error'),
    onLatency: (equalizerId, seconds, worstErrorDb) =>
      useSession.setState(({ latencies }) => ({
        latencies: { ...latencies, [equalizerId]: { seconds, worstErrorDb } },
      })),
    onTaps: (rings) =>
      void liveSpectra?.setRings(
        rateHz,
        Object.fromEntries(
          rings.flatMap(({ trackId, before, after }) => [
            [`${trackId}/before`, before],
            [`${trackId}/after`, after],
          ]),
        ),
      ),
  });
  useSession.setState({ isPlaying: false, loading: 0, before: false, mono: false, latencies: {} });

  let waiting = 0;
  const take = () => {
    waiting = 0;
    const song = currentSong();
    session?.setSong(song);
    useAnalyses.getState().need(song.tracks.map((track) => track.audioId));
    updateMatchedGain();
  };
  take();
  tellLoop(currentSong());
  const unfollow = useSongStore.subscribe((now, before) => {
    if (now.state.song === before.state.song) return;
    if (now.state.song.loop !== before.state.song.loop) tellLoop(now.state.song);
    waiting ||= requestAnimationFrame(take);
  });
  const unmatch = useAnalyses.subscribe(updateMatchedGain);
  const stopWatch = watchPlayback();
  return () => {
    cancelAnimationFrame(waiting);
    unfollow();
    unmatch();
    stopWatch();
    session?.close();
    session = null;
    liveSpectra = null;
    worker.terminate();
  };
}

/** Stops at the end of the song. */
function watchPlayback(): () => void {
  const timer = setInterval(() => {
    const song = currentSong();
    const { isPlaying, togglePlay } = useSession.getState();
    if (!session || !isPlaying) return;
    if (session.state.position >= songLengthFrames(song) && session.state.isPlaying) togglePlay();
  }, 100);
  return () => clearInterval(timer);
}

/** The live spectra by name: `<track>/after` of every track, and `<track>/before` of the chosen one. */
let latest: Record<string, Float32Array> = {};
let revision = 0;
let isMeasuring = false;
let measuredAt = 0;
const MEASURED_EVERY_MS = 30;

/** Counts up with every new set of live levels, and once when they end. */
export const liveRevision = (): number => revision;

function setLatest(levels: Record<string, Float32Array>): void {
  latest = levels;
  revision++;
}

/** Asks for live spectra; what is drawn reads them with {@link liveAtFader}. At most one request at a time, about 30 a second. */
export async function refreshLiveSpectra(milliseconds: number): Promise<void> {
  if (!liveSpectra || !session || isMeasuring || milliseconds - measuredAt < MEASURED_EVERY_MS) return;
  measuredAt = milliseconds;
  if (!session.state.isPlaying) {
    if (Object.keys(latest).length > 0) setLatest({});
    return;
  }
  isMeasuring = true;
  try {
    const chosen = useSelection.getState().stripId;
    const names = [...currentSong().tracks.map((track) => `${track.id}/after`), `${chosen}/before`];
    setLatest(await liveSpectra.measure(names, session.state.tapPosition));
  } finally {
    isMeasuring = false;
  }
}

/** The live levels of a track at its fader, dB per band; nothing while it does not play. */
export function liveAtFader(strip: Strip, side: 'before' | 'after'): Float32Array | undefined {
  return 'audioId' in strip ? latest[`${strip.id}/${side}`]?.map((db) => db + strip.gainDb) : undefined;
}
