'use client';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { asOrvidError } from '@/core/errors';
import { Button } from '../../kit/controls/button';
import { request } from '../../window/server/request';
import { MessagePage } from './message-page';

interface DamagedPageProps {
  songId: string;
  message: string;
  kept: string;
  /** False for a song of a newer version, which is not damaged. */
  canGoBack: boolean;
}

/** A song that cannot be opened: why, and what can be done. */
export function DamagedPage({ songId, message, kept, canGoBack }: DamagedPageProps) {
  const router = useRouter();
  const [problem, setProblem] = useState('');
  const goBack = async () => {
    try {
      await request('POST', `/api/songs/${songId}/go-back`);
      router.refresh();
    } catch (thrown) {
      const error = asOrvidError(thrown);
      setProblem([error.message, error.kept].filter(Boolean).join(' '));
    }
  };
  return (
    <MessagePage title="This song cannot be opened" text={`${message} ${kept}`} problem={problem}>
      {canGoBack && <Button onPress={() => void goBack()}>Go back to its last good state</Button>}
      <a href={`/api/songs/${songId}/archive`} download>
        Download document and journal
      </a>
    </MessagePage>
  );
}
