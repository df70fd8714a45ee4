'use client';
import { formatDistanceToNow } from 'date-fns';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import { MenuTrigger } from 'react-aria-components';
import styled from 'styled-components';
import { asOrvidError } from '@/core/errors';
import { writeLength } from '@/core/formats';
import { newId } from '@/core/song';
import { Button, TextButton } from '../../kit/controls/button';
import { Menu, MenuItem, MenuPanel } from '../../kit/controls/menu';
import { request } from '../../window/server/request';
import { SERIF } from '../../kit/theme/tokens';
import { useTheme } from '../../kit/theme/theme-store';
import { NewSongDialog } from './new-song-dialog';
import { OpenBundle } from './open-bundle';
import { SpaceLine } from './space-line';
import { TitleDialog } from './title-dialog';
import { sendLeftEdits } from '../../window/outbox/link';

/** A song as the list shows it. */
export interface SongSummary {
  id: string;
  title: string;
  tracks: number;
  lengthSeconds: number;
  changedAt: string;
  /** Why it cannot be opened; null where it can. */
  problem: string | null;
}

type Asked = { kind: 'new' } | { kind: 'rename'; song: SongSummary } | null;

/** All songs: open, make, rename, duplicate, delete with undo. */
export function SongList({ initialSongs }: { initialSongs: SongSummary[] }) {
  const [songs, setSongs] = useState(initialSongs);
  const [asked, setAsked] = useState<Asked>(null);
  const [deleted, setDeleted] = useState<SongSummary | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const router = useRouter();
  useEffect(() => useTheme.getState().start(), []);
  useEffect(sendLeftEdits, []);

  const tell = (thrown: unknown) => {
    const error = asOrvidError(thrown);
    setProblem([error.message, error.kept].filter(Boolean).join(' '));
  };
  const attempt = async (work: () => Promise<unknown>) => {
    setProblem(null);
    try {
      await work();
      setSongs((await request<{ songs: SongSummary[] }>('GET', '/api/songs')).songs);
    } catch (thrown) {
      tell(thrown);
    }
  };
  const act = (song: SongSummary) => (action: React.Key) => {
    if (action === 'rename') setAsked({ kind: 'rename', song });
    if (action === 'duplicate') void attempt(() => request('POST', `/api/songs/${song.id}/duplicate`));
    if (action === 'delete') {
      void attempt(async () => {
        await request('DELETE', `/api/songs/${song.id}`);
        setDeleted(song);
      });
    }
  };
  const undoDelete = (song: SongSummary) =>
    attempt(async () => {
      await request('POST', `/api/songs/${song.id}/restore`);
      setDeleted(null);
    });
  const create = async (title: string, rateHz: number) => {
    const { id } = await request<{ id: string }>('POST', '/api/songs', { title, rateHz });
    router.push(`/songs/${id}`);
  };
  const rename = (song: SongSummary, title: string) =>
    request('POST', `/api/songs/${song.id}/edits`, {
      clientId: newId(),
      edits: [{ id: newId(), edit: { kind: 'song.set', changes: { title } } }],
    });

  return (
    <Page>
      <Head>
        <h1>Orvid</h1>
        <p>Songs</p>
        <OpenBundle onProblem={tell} onMade={() => void attempt(() => Promise.resolve())} />
        <Button $strong onPress={() => setAsked({ kind: 'new' })}>
          New song…
        </Button>
      </Head>
      {problem && <Problem role="alert">{problem}</Problem>}
      {deleted && (
        <Deleted role="status">
          “{deleted.title}” was deleted. <TextButton onPress={() => void undoDelete(deleted)}>Undo</TextButton>
        </Deleted>
      )}
      {songs.length === 0 ? (
        <Empty>No songs yet. Make a new one, then drop its recordings on the page.</Empty>
      ) : (
        <Rows aria-label="Songs">
          {songs.map((song) => (
            <li key={song.id}>
              <Link href={`/songs/${song.id}`}>{song.title}</Link>
              {song.problem === null ? (
                <>
                  <span>{song.tracks === 1 ? '1 track' : `${song.tracks} tracks`}</span>
                  <span>{writeLength(song.lengthSeconds)}</span>
                  <span suppressHydrationWarning>
                    changed {formatDistanceToNow(new Date(song.changedAt), { addSuffix: true })}
                  </span>
                </>
              ) : (
                <Damage title={song.problem}>cannot be opened: open it to see why, and what can be done</Damage>
              )}
              <MenuTrigger>
                <TextButton aria-label={`What to do with ${song.title}`}>More…</TextButton>
                <MenuPanel placement="bottom end">
                  <Menu onAction={act(song)} aria-label={`What to do with ${song.title}`}>
                    {song.problem === null && <MenuItem id="rename">Rename…</MenuItem>}
                    {song.problem === null && <MenuItem id="duplicate">Duplicate</MenuItem>}
                    <MenuItem id="delete">Delete</MenuItem>
                  </Menu>
                </MenuPanel>
              </MenuTrigger>
            </li>
          ))}
        </Rows>
      )}
      <SpaceLine onProblem={tell} />
      <NewSongDialog
        isOpen={asked?.kind === 'new'}
        onClose={() => setAsked(null)}
        onDone={(title, rateHz) => {
          setAsked(null);
          void attempt(() => create(title, rateHz));
        }}
      />
      {asked?.kind === 'rename' && (
        <TitleDialog
          heading="Rename the song"
          action="Rename"
          initial={asked.song.title}
          isOpen
          onClose={() => setAsked(null)}
          onDone={(title) => {
            setAsked(null);
            void attempt(() => rename(asked.song, title));
          }}
        />
      )}
    </Page>
  );
}

const Page = styled.main`
  max-width: 860px;
  margin: 0 auto;
  padding: 56px 28px;
`;
const Head = styled.header`
  display: grid;
  grid-template-columns: 1fr auto auto;
  gap: 0 10px;
  align-items: end;
  padding-bottom: 14px;
  border-bottom: 2px solid var(--ink);
  h1 {
    grid-column: 1 / -1;
    font: italic 400 30px/1.1 ${SERIF};
    margin-bottom: 22px;
  }
  p {
    font-size: 18px;
    font-weight: 600;
  }
`;
const Rows = styled.ul`
  margin: 0;
  padding: 0;
  list-style: none;
  li {
    display: grid;
    grid-template-columns: minmax(0, 1fr) 80px 60px 180px 60px;
    align-items: baseline;
    gap: 14px;
    padding: 12px 0;
    border-bottom: 1px solid var(--grid);
    color: var(--soft);
  }
  a {
    overflow: hidden;
    color: var(--ink);
    font-size: 16px;
    font-weight: 600;
    text-decoration: none;
    text-overflow: ellipsis;
    white-space: nowrap;
  }
  a:hover {
    text-decoration: underline;
    text-underline-offset: 4px;
  }
  @media (max-width: 640px) {
    li {
      grid-template-columns: minmax(0, 1fr) 80px 60px;
    }
    li > span:nth-of-type(n + 2) {
      display: none;
    }
  }
`;
const Damage = styled.span`
  grid-column: span 3;
  color: var(--accent);
  font-weight: 600;
`;
const Empty = styled.p`
  padding: 40px 0;
  color: var(--soft);
  font-size: 15px;
`;
const Deleted = styled.p`
  padding: 12px 0;
  border-bottom: 1px solid var(--grid);
`;
const Problem = styled.p`
  padding: 12px 0;
  color: var(--accent);
  font-weight: 600;
`;
