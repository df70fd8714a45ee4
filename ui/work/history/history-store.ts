import { asOrvidError } from '@/core/errors';
import { settingsOf, type Settings } from '@/core/song';
import { deskStore, type Desk } from '../../window/desk/desk';
import { tellError } from '../../window/notices/notices';
import { request } from '../../window/server/request';
import { documentOf } from '../../window/song/live-song';
import { useSongStore } from '../../window/song/song-store';
import { showMoment, useVisited } from '../../window/song/visited';

/** A change of the song, in words. */
export interface HistoryLine {
  /** The song is this after it. */
  revision: number;
  at: string;
  words: string[];
  /** The name that the moment was given; empty for none. */
  name: string;
}

interface History {
  /** The latest first; null until they are known. */
  lines: readonly HistoryLine[] | null;
  named: readonly HistoryLine[];
  /** Where earlier ones begin; null where there are none. */
  more: number | null;
}

/** The journal of the song as far as it was asked for. */
export const useHistory = deskStore<History>(() => () => ({ lines: null, named: [], more: null }));

type Answer = { lines: HistoryLine[]; more: number | null; named: HistoryLine[] };

async function attempt<T>(desk: Desk, work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (thrown) {
    tellError(desk, asOrvidError(thrown));
    return undefined;
  }
}

const ask = (desk: Desk, until?: number) =>
  request<Answer>('GET', `/api/songs/${desk.songId}/history${until === undefined ? '' : `?until=${until}`}`);

/** Asks for the latest changes; earlier ones that are known stay where they follow on. */
export async function loadHistory(desk: Desk): Promise<void> {
  const answer = await attempt(desk, () => ask(desk));
  if (!answer) return;
  const { lines: known, more } = useHistory.of(desk);
  const oldest = answer.lines.at(-1)?.revision ?? 0;
  const earlier = (known ?? []).filter(({ revision }) => revision < oldest);
  const follows = earlier.length > 0 && earlier[0].revision === oldest - 1;
  useHistory.api(desk).setState({
    named: answer.named,
    lines: follows ? [...answer.lines, ...earlier] : answer.lines,
    more: follows ? more : answer.more,
  });
}

/** Asks for changes before those that are known. */
export async function loadEarlier(desk: Desk): Promise<void> {
  const { lines, more } = useHistory.of(desk);
  if (more === null) return;
  const answer = await attempt(desk, () => ask(desk, more));
  if (answer) useHistory.api(desk).setState({ lines: [...(lines ?? []), ...answer.lines], more: answer.more });
}

const settingsAt = async (desk: Desk, revision: number) =>
  (await request<{ settings: Settings }>('GET', `/api/songs/${desk.songId}/history/${revision}`)).settings;

/** Shows and plays the song as it was after a change. */
export async function visit(desk: Desk, { revision, at, name, words }: HistoryLine): Promise<void> {
  const settings = await attempt(desk, () => settingsAt(desk, revision));
  if (settings) showMoment(desk, { revision, at, name: name || words[0] || '', settings });
}

/** Back to the song as it is. */
export const leaveMoment = (desk: Desk): void => {
  if (useVisited.of(desk).moment) showMoment(desk, null);
};

/** Makes the song what it was at the moment that is shown, as one more change. */
export function goBack(desk: Desk): void {
  const { moment } = useVisited.of(desk);
  if (!moment) return;
  leaveMoment(desk);
  const isSame = JSON.stringify(moment.settings) === JSON.stringify(settingsOf(documentOf(desk)));
  if (!isSame)
    useSongStore.of(desk).edit({ kind: 'settings.set', settings: moment.settings }, `Back to ${writeAt(moment.at)}`);
}

/** Gives the moment that is shown a name; an empty one takes it away. */
export async function nameMoment(desk: Desk, name: string): Promise<void> {
  const { moment } = useVisited.of(desk);
  if (!moment) return;
  const { revision } = moment;
  await attempt(desk, () => request('POST', `/api/songs/${desk.songId}/history`, { revision, name }));
  // It may have been left meanwhile.
  if (useVisited.of(desk).moment === moment) useVisited.api(desk).setState({ moment: { ...moment, name } });
  await loadHistory(desk);
}

const TIME = new Intl.DateTimeFormat('en-GB', { hour: '2-digit', minute: '2-digit' });
const DAY = new Intl.DateTimeFormat('en-GB', { weekday: 'short', day: 'numeric', month: 'short' });

export const writeClock = (at: string): string => TIME.format(new Date(at));
export const writeDay = (at: string): string => DAY.format(new Date(at));
/** `Fri, 27 Nov, 14:32`. */
export const writeAt = (at: string): string => `${writeDay(at)}, ${writeClock(at)}`;
