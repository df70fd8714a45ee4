'use client';
import Link from 'next/link';
import { useEffect, useMemo, useState } from 'react';
import styled, { createGlobalStyle } from 'styled-components';
import { asOrvidError } from '@/core/errors';
import {
  compareRecalls,
  RECALL_CSS,
  recallArticle,
  recallCsv,
  recallJson,
  recallMarkdown,
  recallOf,
  recallPage,
  type Recall,
  type RecallClearances,
} from '@/core/recall';
import { plainName } from '@/core/renders';
import { MASTER_ID, type Song } from '@/core/song';
import { Button } from '../../kit/controls/button';
import { Checkbox } from '../../kit/controls/checkbox';
import { Choice } from '../../kit/controls/choice';
import { useTheme } from '../../kit/theme/theme-store';
import { request } from '../../window/server/request';
import { wholeClearances } from '../../window/sound/whole-clearances';
import { Paper } from '../paper/paper';
import { DifferenceTable } from './difference-table';

const NOW = 'now';
const NOTHING = 'nothing';
const DRAFT = 'draft ';
const SONG = 'song ';

const FORMATS = {
  md: { name: 'Markdown', type: 'text/markdown', write: recallMarkdown },
  csv: { name: 'CSV', type: 'text/csv', write: recallCsv },
  json: { name: 'JSON', type: 'application/json', write: recallJson },
  html: { name: 'HTML', type: 'text/html', write: recallPage },
} as const;

function download(recall: Recall, format: keyof typeof FORMATS): void {
  const { type, write } = FORMATS[format];
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([write(recall)], { type: `${type};charset=utf-8` }));
  link.download = `${plainName(recall.title) || 'song'}-recall.${format}`;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

/** The recall of a state: the song as it stands, or a draft by the id of its choice. */
function recallIn(song: Song, choice: string, stripIds: readonly string[] | undefined, clearances: RecallClearances) {
  const draft = song.drafts.find(({ id }) => choice === DRAFT + id);
  // What was measured is of the song as it stands.
  return recallOf(song, { of: draft, stripIds, clearances: draft ? {} : clearances });
}

/** Everything that is set in a song, in words and numbers: to be read, printed, taken along, and held against another state. */
export function RecallPage({ songId, song }: { songId: string; song: Song }) {
  const [state, setState] = useState(NOW);
  const [beside, setBeside] = useState(NOTHING);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [clearances, setClearances] = useState<RecallClearances>({});
  const [others, setOthers] = useState<readonly { id: string; title: string }[]>([]);
  const [loaded, setLoaded] = useState<{ id: string; song: Song } | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => useTheme.getState().start(), []);
  useEffect(() => {
    const leaving = new AbortController();
    const say = (thrown: unknown) => {
      if (!leaving.signal.aborted) setProblem(asOrvidError(thrown).message);
    };
    const measure = async () => {
      if (song.tracks.length === 0) return;
      await wholeClearances(song, leaving.signal, ({ after, isEstimated }) => {
        const marked = Object.entries(after).map(([id, found]) => [id, found && { ...found, isEstimated }] as const);
        setClearances(Object.fromEntries(marked));
      });
    };
    const list = async () => {
      const { songs } = await request<{ songs: { id: string; title: string; problem: string | null }[] }>(
        'GET',
        '/api/songs',
      );
      setOthers(songs.filter(({ id, problem: fault }) => id !== songId && fault === null));
    };
    measure().catch(say);
    list().catch(say);
    return () => leaving.abort();
  }, [songId, song]);
  const besideId = beside.startsWith(SONG) ? beside.slice(SONG.length) : null;
  useEffect(() => {
    if (besideId === null) return;
    let isWanted = true;
    request<{ song: Song }>('GET', `/api/songs/${besideId}`).then(
      (answer) => isWanted && setLoaded({ id: besideId, song: answer.song }),
      (thrown: unknown) => isWanted && setProblem(asOrvidError(thrown).message),
    );
    return () => {
      isWanted = false;
    };
  }, [besideId]);

  const strips = useMemo(
    () => [...song.tracks, ...song.buses, { id: MASTER_ID, name: 'Master' }].map(({ id, name }) => ({ id, name })),
    [song],
  );
  const chosen = useMemo(
    () => (left.size === 0 ? undefined : strips.map(({ id }) => id).filter((id) => !left.has(id))),
    [strips, left],
  );
  const recall = useMemo(() => recallIn(song, state, chosen, clearances), [song, state, chosen, clearances]);
  const other = useMemo(() => {
    if (beside === NOTHING) return null;
    if (besideId !== null) return loaded?.id === besideId ? recallOf(loaded.song) : null;
    return recallIn(song, beside, chosen, {});
  }, [beside, besideId, loaded, song, chosen]);
  // A clearance that was measured on one side only is no difference.
  const differences = other && compareRecalls(recallIn(song, state, chosen, {}), other);
  const states = [
    { id: NOW, name: 'The song as it is' },
    ...song.drafts.map(({ id, name }) => ({ id: DRAFT + id, name: `Draft “${name}”` })),
  ];
  const nameOf = (choice: string) =>
    [...states, ...others.map(({ id, title }) => ({ id: SONG + id, name: title }))].find(({ id }) => id === choice)
      ?.name ?? '';
  const flip = (id: string) =>
    setLeft(new Set(left.has(id) ? [...left].filter((known) => known !== id) : [...left, id]));

  return (
    <Paper>
      <RecallStyle />
      <header data-screen>
        <h1>Recall</h1>
        <div>
          <Button $outlined onPress={() => window.print()}>
            Print…
          </Button>
          {Object.entries(FORMATS).map(([format, { name }]) => (
            <Button key={format} onPress={() => download(recall, format as keyof typeof FORMATS)}>
              {name}
            </Button>
          ))}
          <Link href={`/songs/${songId}`}>Back to the song</Link>
        </div>
      </header>
      <Tools data-screen>
        <Line>
          <span>Of</span>
          <Choice label="Which state" value={state} options={states} width={220} onChange={setState} />
          <span>beside</span>
          <Choice
            label="Beside what"
            value={beside}
            options={[
              { id: NOTHING, name: 'nothing' },
              ...states.filter(({ id }) => id !== state),
              ...others.map(({ id, title }) => ({ id: SONG + id, name: `Song “${title}”` })),
            ]}
            width={220}
            onChange={setBeside}
          />
        </Line>
        <Strips aria-label="What of it" role="group">
          {strips.map(({ id, name }) => (
            <Checkbox key={id} isChecked={!left.has(id)} onToggle={() => flip(id)}>
              <span>{name}</span>
            </Checkbox>
          ))}
        </Strips>
      </Tools>
      {problem !== null && <p role="alert">{problem}</p>}
      {differences ? (
        <DifferenceTable first={nameOf(state)} second={nameOf(beside)} title={song.title} differences={differences} />
      ) : (
        <div dangerouslySetInnerHTML={{ __html: recallArticle(recall) }} />
      )}
    </Paper>
  );
}

const RecallStyle = createGlobalStyle`${RECALL_CSS}`;

const Tools = styled.div`
  margin-bottom: 26px;
  padding-bottom: 12px;
  border-bottom: 1px solid var(--rule);
`;
const Line = styled.div`
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 10px;
`;
const Strips = styled.div`
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
  gap: 0 14px;
  max-height: 130px;
  margin-top: 8px;
  overflow-y: auto;
  label > span:last-child {
    overflow: hidden;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
`;
