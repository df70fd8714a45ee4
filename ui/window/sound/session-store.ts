import { AudioSession } from '@/audio/session';
import { songLengthFrames, type Song } from '@/core/song';
import { deskStore, type Desk } from '../desk/desk';
import { keepFrames } from '../../kit/frames/use-frames';
import { tell } from '../notices/notices';
import { onServerBack } from '../outbox/link';
import { documentOf, liveSong, songOf } from '../song/live-song';
import { useSelection } from '../song/selection';
import { useSongStore } from '../song/song-store';
import { useAnalyses } from './analyses';
import { audioState, soundOf } from './audio-state';
import { useVisited } from '../song/visited';
import { followFrozen, heardFrozen, useFrozen } from './frozen';
import { followMatchedGain, hearingOf, useListening } from './listening';
import { openLive, setLiveRings } from './live';
import { openMeters } from './meters';
import { followMix } from './mix';
import { followGains } from './gains-now';
import { followPairs } from './judge-pairs';
import { followStrips } from './strip-measures';

/** The sound of a desk: play state and what is known of it. Not part of the song. */
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

export const useSession = deskStore<SessionStore>((desk) => (set, get) => ({
  isPlaying: false,
  loading: 0,
  latencies: {},
  togglePlay: () => {
    const { session } = soundOf(desk);
    if (!session) return;
    const isPlaying = !get().isPlaying;
    set({ isPlaying });
    if (!isPlaying) {
      session.stop();
      return;
    }
    if (session.state.position >= songLengthFrames(songOf(desk))) session.seek(0);
    session.play().catch((error: Error) => {
      set({ isPlaying: false });
      tell(desk, error.message, 'error');
    });
  },
  seek: (seconds) => {
    const song = songOf(desk);
    const frame = Math.min(songLengthFrames(song), Math.max(0, Math.round(seconds * song.rateHz)));
    soundOf(desk).session?.seek(frame);
  },
  toggleLoop: () => {
    const song = songOf(desk);
    const lengthSeconds = songLengthFrames(song) / song.rateHz;
    if (lengthSeconds === 0) return;
    const loop = song.loop ?? { startSeconds: 0, endSeconds: lengthSeconds, enabled: false };
    useSongStore.of(desk).edit({ kind: 'song.set', changes: { loop: { ...loop, enabled: !loop.enabled } } }, 'Loop');
  },
}));

/** How often it is looked whether the sound of renders that were just made is here. */
const LOOK_MS = 150;

/** Opens the sound of the song on a desk, and follows it until the desk ends. */
export function openSound(desk: Desk): void {
  const { rateHz } = songOf(desk);
  const session = new AudioSession(rateHz, {
    onLoading: (loading) => useSession.api(desk).setState({ loading }),
    onError: (message) => tell(desk, message, 'error'),
    onSuspended: (message) => {
      useSession.api(desk).setState({ isPlaying: false });
      tell(desk, message, 'error');
    },
    onLatency: (equalizerId, seconds, worstErrorDb) =>
      useSession.api(desk).setState(({ latencies }) => ({
        latencies: { ...latencies, [equalizerId]: { seconds, worstErrorDb } },
      })),
    onTaps: (rings) => setLiveRings(desk, rateHz, rings),
  });
  soundOf(desk).session = session;
  openLive(desk, session.state);

  let isWaiting = false;
  let looking: ReturnType<typeof setTimeout> | undefined;
  const hear = () => {
    const own = documentOf(desk);
    const asked = hearingOf(desk, own);
    const { song, soon } = heardFrozen(desk, asked.song, asked.hearing, session);
    session.setSong(song, asked.hearing, song === own ? own.tracks : [...own.tracks, ...song.tracks], soon);
    clearTimeout(looking);
    if (soon.length > 0) looking = setTimeout(tellSoon, LOOK_MS);
    useAnalyses.of(desk).need(own);
  };
  // What one gesture changes in several places is told once, and at once.
  const tellSoon = () => {
    if (isWaiting) return;
    isWaiting = true;
    queueMicrotask(() => {
      isWaiting = false;
      hear();
    });
  };
  const takeLoop = ({ loop }: Song) =>
    session.setLoop(
      loop?.enabled
        ? { start: Math.round(loop.startSeconds * rateHz), end: Math.round(loop.endSeconds * rateHz) }
        : null,
    );
  hear();
  takeLoop(songOf(desk));
  const endings = [
    liveSong(desk).follow((now, before) => {
      if (now.loop !== before.loop) takeLoop(now);
      tellSoon();
    }),
    useListening.api(desk).subscribe(tellSoon),
    useVisited.api(desk).subscribe(tellSoon),
    useFrozen.api(desk).subscribe(tellSoon),
    keepFrames(() => session.isWanted || session.state.isPlaying),
    useSelection.api(desk).subscribe(() => useListening.of(desk).before && tellSoon()),
  ];
  onServerBack(desk, () => session.bringMissing());
  followMatchedGain(desk);
  followMix(desk);
  followStrips(desk);
  followFrozen(desk);
  followPairs(desk);
  followGains(desk);
  openMeters(desk, session);
  const timer = setInterval(() => stopAtEnd(desk), 100);
  desk.onEnd(() => {
    clearInterval(timer);
    clearTimeout(looking);
    endings.forEach((end) => end());
    session.close();
    soundOf(desk).session = null;
  });
}

function stopAtEnd(desk: Desk): void {
  const { isPlaying, togglePlay } = useSession.of(desk);
  const state = audioState(desk);
  if (isPlaying && state?.isPlaying && state.position >= songLengthFrames(songOf(desk))) togglePlay();
}
