import type { AudioSession } from '@/audio/session';
import type { NeededRecording } from '@/audio/feeder';
import type { Hearing } from '@/core/engine';
import { frozenDependsOn, frozenPart, withFrozen, type FrozenRender } from '@/core/mix';
import { songLengthFrames, type Song } from '@/core/song';
import { isSameList } from '../../kit/axis/still';
import { remember, remembered } from '../../kit/storage/browser-storage';
import { deskStore, type Desk } from '../desk/desk';
import { onServerBack } from '../outbox/link';
import { request } from '../server/request';
import { documentOf } from '../song/live-song';
import { useSongStore } from '../song/song-store';

/**
 * Tracks that are played as renders of their chains, so that the audio thread need not run them. Which ones is a matter of this window, and no part of the song. A track is frozen as long as
 * its render is what it sounds like; what is changed is heard at once, and rendered anew in the background.
 */
export type FrozenState = 'live' | 'waiting' | 'rendering' | 'frozen' | 'failed';

interface KnownRender {
  dependsOn: readonly unknown[];
  render: FrozenRender;
}

interface FrozenStore {
  /** The tracks that are to be frozen. */
  chosen: readonly string[];
  renders: ReadonlyMap<string, KnownRender>;
  /** Those of which the render is what they sound like. */
  current: readonly string[];
  /** The one that is being rendered. */
  working: string | null;
  /** Why some could not be rendered, as they are now. */
  failed: Readonly<Record<string, string>>;
}

export const useFrozen = deskStore<FrozenStore>(() => () => ({
  chosen: [],
  renders: new Map(),
  current: [],
  working: null,
  failed: {},
}));

export function frozenState({ chosen, current, working, failed }: FrozenStore, trackId: string): FrozenState {
  if (!chosen.includes(trackId)) return 'live';
  if (current.includes(trackId)) return 'frozen';
  if (working === trackId) return 'rendering';
  return trackId in failed ? 'failed' : 'waiting';
}

const keyOf = (songId: string) => `orvid.frozen.${songId}`;

/** The tracks that were frozen when the song was open last; none where that cannot be read. */
function storedChoice(songId: string): string[] {
  try {
    const stored = JSON.parse(remembered(keyOf(songId)) ?? '[]') as unknown;
    return Array.isArray(stored) ? stored.filter((id) => typeof id === 'string') : [];
  } catch {
    return [];
  }
}

/** Freezes tracks, or plays them live again. */
export function freezeTracks(desk: Desk, trackIds: readonly string[], isFrozen: boolean): void {
  const { chosen: before, renders } = useFrozen.of(desk);
  const others = before.filter((id) => !trackIds.includes(id));
  const chosen = isFrozen ? [...others, ...trackIds] : others;
  remember(keyOf(desk.songId), chosen.length > 0 ? JSON.stringify(chosen) : null);
  // What is thawed is asked for again when it is frozen again: its render may be gone.
  const kept = new Map([...renders].filter(([id]) => chosen.includes(id)));
  useFrozen.api(desk).setState({ chosen, renders: kept });
  desk.part(makeFreezing).changed();
}

/** It is rendered when nothing has changed for so long. */
const REST_MS = 1500;

class FreezingTracks {
  private timer: ReturnType<typeof setTimeout> | undefined;
  private asked: { trackId: string; dependsOn: readonly unknown[]; abort: AbortController } | null = null;
  /** What could not be rendered, as it was then. */
  private readonly refused = new Map<string, readonly unknown[]>();

  constructor(private readonly desk: Desk) {}

  follow(): void {
    const { desk } = this;
    useFrozen.api(desk).setState({ chosen: storedChoice(desk.songId) });
    const end = useSongStore.api(desk).subscribe((now, before) => {
      if (now.state.song !== before.state.song) this.changed();
    });
    onServerBack(desk, () => {
      this.refused.clear();
      this.changed();
    });
    this.changed();
    desk.onEnd(() => {
      end();
      clearTimeout(this.timer);
      this.asked?.abort.abort();
    });
  }

  changed(): void {
    const { chosen, current } = useFrozen.of(this.desk);
    if (chosen.length + current.length + this.refused.size === 0 && !this.asked) return;
    const song = documentOf(this.desk);
    const { asked } = this;
    const isWanted = asked && chosen.includes(asked.trackId);
    if (asked && !(isWanted && isSameList(asked.dependsOn, frozenDependsOn(song, asked.trackId)))) asked.abort.abort();
    this.tell(song);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.renderNext(), REST_MS);
  }

  /** Which renders are true is seen at once. */
  private tell(song: Song): void {
    const { chosen, renders, current, failed } = useFrozen.of(this.desk);
    const isTrue = (id: string, dependsOn: readonly unknown[] | undefined) =>
      dependsOn !== undefined && isSameList(dependsOn, frozenDependsOn(song, id));
    const next = chosen.filter((id) => isTrue(id, renders.get(id)?.dependsOn));
    for (const [id, dependsOn] of this.refused)
      if (!chosen.includes(id) || !isTrue(id, dependsOn)) this.refused.delete(id);
    const still = Object.fromEntries(Object.entries(failed).filter(([id]) => this.refused.has(id)));
    const isSame = isSameList(next, current) && Object.keys(still).length === Object.keys(failed).length;
    if (!isSame) useFrozen.api(this.desk).setState({ current: next, failed: still });
  }

  private async renderNext(): Promise<void> {
    if (this.asked) return;
    const { desk } = this;
    const song = documentOf(desk);
    const { chosen, current } = useFrozen.of(desk);
    const trackId = chosen.find(
      (id) => !current.includes(id) && !this.refused.has(id) && song.tracks.some((track) => track.id === id),
    );
    if (trackId === undefined) return;
    const abort = new AbortController();
    const dependsOn = frozenDependsOn(song, trackId);
    this.asked = { trackId, dependsOn, abort };
    const store = useFrozen.api(desk);
    store.setState({ working: trackId });
    try {
      const question = { song: frozenPart(song, trackId), trackId, lengthFrames: songLengthFrames(song) };
      const render = await request<FrozenRender>('POST', '/api/frozen', question, abort.signal);
      store.setState(({ renders }) => ({ renders: new Map([...renders, [trackId, { dependsOn, render }]]) }));
    } catch (thrown) {
      if (!abort.signal.aborted) {
        this.refused.set(trackId, dependsOn);
        store.setState(({ failed }) => ({ failed: { ...failed, [trackId]: (thrown as Error).message } }));
      }
    }
    this.asked = null;
    store.setState({ working: null });
    this.tell(documentOf(desk));
    clearTimeout(this.timer);
    this.timer = setTimeout(() => void this.renderNext(), abort.signal.aborted ? REST_MS : 0);
  }
}

const makeFreezing = (desk: Desk) => new FreezingTracks(desk);

/** Renders frozen tracks in the background until the desk ends. */
export const followFrozen = (desk: Desk) => desk.part(makeFreezing).follow();

/** True where a track has to run to be heard as it is asked for. */
const isLookedInto = (trackId: string, { without, key }: Hearing) =>
  key?.stripId === trackId || (without !== null && (!('stripId' in without) || without.stripId === trackId));

/** Renders that were played; they go on while the song plays, whatever has come of them. */
const makePlayed = () => new Set<string>();

/**
 * A song with its frozen tracks as renders, where these are true of it. One that has just been made comes in while it plays when its sound is here.
 * @returns also the recordings that are wanted soon
 */
export function heardFrozen(
  desk: Desk,
  song: Song,
  hearing: Hearing,
  session: Pick<AudioSession, 'isHere' | 'isWanted'>,
): { song: Song; soon: NeededRecording[] } {
  const { chosen, renders } = useFrozen.of(desk);
  const played = desk.part(makePlayed);
  const heard = new Map<string, FrozenRender>();
  const soon: NeededRecording[] = [];
  for (const trackId of chosen) {
    const known = renders.get(trackId);
    const track = song.tracks.find(({ id }) => id === trackId);
    if (!known || !track || isLookedInto(trackId, hearing)) continue;
    if (!isSameList(known.dependsOn, frozenDependsOn(song, trackId))) continue;
    if (!session.isWanted || played.has(known.render.audioId) || session.isHere(known.render))
      heard.set(trackId, known.render);
    else soon.push(known.render);
  }
  played.clear();
  for (const { audioId } of heard.values()) played.add(audioId);
  return { song: withFrozen(song, heard), soon };
}
