'use client';
import { useEffect } from 'react';
import styled from 'styled-components';
import { asOrvidError } from '@/core/errors';
import type { FinishedFile } from '@/core/renders';
import { TextButton } from '../../kit/controls/button';
import { useDesk, type Desk } from '../../window/desk/desk';
import { tellError } from '../../window/notices/notices';
import { useJobs } from '../../window/server/jobs-store';
import { request } from '../../window/server/request';
import { aboutFile } from './finished-file';
import { Head, Lines, makesFile } from './line-list';
import { useRendering } from './rendering-store';

async function load(desk: Desk): Promise<void> {
  try {
    const { files } = await request<{ files: FinishedFile[] }>('GET', `/api/songs/${desk.songId}/renders`);
    useRendering.of(desk).setFinished(files);
  } catch (thrown) {
    tellError(desk, asOrvidError(thrown));
  }
}

/** What was made of the song, to take. */
export function FinishedList() {
  const desk = useDesk();
  const finished = useRendering((rendering) => rendering.finished);
  const done = useJobs(
    (store) => Object.values(store.jobs).filter((job) => makesFile(job) && job.state === 'done').length,
  );
  useEffect(() => void load(desk), [desk, done]);
  const remove = async ({ id }: FinishedFile) => {
    await request('DELETE', `/api/renders/${id}`).catch((thrown: unknown) => tellError(desk, asOrvidError(thrown)));
    await load(desk);
  };
  if (!finished) return null;
  return (
    <>
      <Head>
        <h3>Made of this song</h3>
        {finished.length > 1 && (
          <a href={`/api/songs/${desk.songId}/renders/all`} download>
            Take all in one file
          </a>
        )}
      </Head>
      {finished.length === 0 && <p>Nothing yet. What is made stays here for 30 days.</p>}
      <Lines aria-label="Made of this song">
        {finished.map((file) => (
          <li key={file.id}>
            <a href={`/api/renders/${file.id}`} download={file.fileName} title={file.fileName}>
              {file.fileName}
            </a>
            <small>{aboutFile(file)}</small>
            {file.about?.kind === 'proof' && (
              <SeeLink href={`/api/renders/${file.id}?see`} target="_blank" rel="noopener">
                See
              </SeeLink>
            )}
            <TextButton aria-label={`Remove ${file.fileName}`} onPress={() => void remove(file)}>
              Remove
            </TextButton>
            {file.about?.remark && <div>{file.about.remark}</div>}
          </li>
        ))}
      </Lines>
    </>
  );
}

const SeeLink = styled.a`
  && {
    flex: none;
  }
`;
