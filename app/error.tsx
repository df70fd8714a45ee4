'use client';
import { MessagePage } from '@/ui/pages/message/message-page';

export default function ErrorPage({ reset }: { error: Error; reset: () => void }) {
  return (
    <MessagePage
      title="The page could not be shown"
      text="Something went wrong in the page. Everything that the foot of the page called saved is kept on the server."
      again={reset}
    />
  );
}
