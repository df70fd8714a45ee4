import { create } from 'zustand';
import { AudioSession } from '@/audio/session';
import { songLengthFrames, type Song } from '@/core/song';
import { currentSong, onEarlySong, useSelection, useSongStore } from '../song';
import { useAnalyses } from './analyses';
import { followMatchedGain, forgetListening, hearingNow, useListening } from './listening';
import { openLive, setLiveRings } from './live';
import { openMeters } from './meters';
import { followMix } from './mix';

/** The sound of this window: play state and what is known of it. Not part of the song. */
interface SessionStore {
  isPlaying: boolean;
  /** 0 to 1: how much of the sound has arrived. */
  loading: number;
  /** How late each equalizer of linear phase is, and how far its level strays, by the equalizer's id. */
  latencies: Readonly<Record<string, { seconds: number; worstErrorDb: number }>>;
  togglePlay: () => void;
  seek: (seconds: number) => void;
  toggleLoop: () => void;
}

let session: AudioSession | null = null;

/** The audio of this window, for what is drawn while it plays. Null before a song is open. */
export const audioState = () => session?.state ?? null;

/** Seconds at which the song stands. */
export function positionSeconds(): number {
  return session ? session.state.position / currentSong().rateHz : 0;
}

export const useSession = create<SessionStore>((set, get) => ({
  isPlaying: false,
  loading: 0,
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
}));

function tellLoop(song: Song): void {
  const { loop, rateHz } = song;
  session?.setLoop(
    loop?.enabled ? { start: Math.round(loop.startSeconds * rateHz), end: Math.round(loop.endSeconds * rateHz) } : null,
  );
}

/** Opens the sound of the song that is in the store, and follows it. @returns what ends it */
export function startSession(): () => void {
  const { rateHz } = currentSong();
  session = new AudioSession(rateHz, {
    onLoading: (loading) => useSession.setState({ loading }),
    onError: (message) => useSongStore.getState().tell(message, 'error'),
    onLatency: (equalizerId, seconds, worstErrorDb) =>
      useSession.setState(({ latencies }) => ({
        latencies: { ...latencies, [equalizerId]: { seconds, worstErrorDb } },
      })),
    onTaps: (rings) => setLiveRings(rateHz, rings),
  });
  const closeLive = openLive(session.state);
  useSession.setState({ isPlaying: false, loading: 0, latencies: {} });
  forgetListening();

  let isWaiting = false;
  let told: { song: Song; how: string } | null = null;
  const take = (shown = currentSong()) => {
    const { song, hearing } = hearingNow(shown);
    const how = JSON.stringify(hearing);
    if (song === told?.song && how === told.how) return;
    told = { song, how };
    const { tracks } = currentSong();
    session?.setSong(song, hearing, song.tracks === tracks ? tracks : [...tracks, ...song.tracks]);
    useAnalyses.getState().need(tracks.map((track) => track.audioId));
  };
  // What one gesture changes in several places is told once, and at once.
  const tell = () => {
    if (isWaiting) return;
    isWaiting = true;
    queueMicrotask(() => {
      isWaiting = false;
      take();
    });
  };
  take();
  tellLoop(currentSong());
  const endings = [
    useSongStore.subscribe((now, before) => {
      if (now.state.song === before.state.song) return;
      if (now.state.song.loop !== before.state.song.loop) tellLoop(now.state.song);
      tell();
    }),
    onEarlySong(take),
    useListening.subscribe(tell),
    useSelection.subscribe(() => useListening.getState().before && tell()),
    followMatchedGain(),
    followMix(() => useSession.getState().isPlaying),
    openMeters(session),
    watchPlayback(),
    closeLive,
  ];
  return () => {
    endings.forEach((end) => end());
    session?.close();
    session = null;
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
