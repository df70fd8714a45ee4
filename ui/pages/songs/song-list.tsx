'use client';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import styled from 'styled-components';
import { asOrvidError } from '@/core/errors';
import { newId, type SongSummary } from '@/core/song';
import { Button, TextButton } from '../../kit/controls/button';
import { request } from '../../window/server/request';
import { SERIF } from '../../kit/theme/tokens';
import { useTheme } from '../../kit/theme/theme-store';
import { NewSongDialog } from './new-song-dialog';
import { OpenBundle } from './open-bundle';
import { SongRows, type SongAction } from './song-rows';
import { SpaceLine } from './space-line';
import { TitleDialog } from './title-dialog';
import { sendLeftEdits } from '../../window/outbox/link';

const listed = async () => (await request<{ songs: SongSummary[] }>('GET', '/api/songs')).songs;

/** How long this page is at rest before what a song is shown with is brought, so that one that is clicked on opens sooner. */
const AT_REST_MS = 400;

function bringSongPage() {
  const timer = setTimeout(() => void import('../song/main-view').catch(() => undefined), AT_REST_MS);
  return () => clearTimeout(timer);
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
  useEffect(bringSongPage, []);
  useEffect(() => {
    // Another window may have changed it meanwhile; where the server is gone, what is shown stays.
    const refresh = () => {
      if (document.visibilityState === 'visible') void listed().then(setSongs, () => undefined);
    };
    document.addEventListener('visibilitychange', refresh);
    return () => document.removeEventListener('visibilitychange', refresh);
  }, []);

  const tell = (thrown: unknown) => {
    const error = asOrvidError(thrown);
    setProblem([error.message, error.kept].filter(Boolean).join(' '));
  };
  const attempt = async (work: () => Promise<unknown>) => {
    setProblem(null);
    try {
      await work();
      setSongs(await listed());
    } catch (thrown) {
      tell(thrown);
    }
  };
  const act = (song: SongSummary, action: SongAction) => {
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
        <SongRows songs={songs} onAction={act} />
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
