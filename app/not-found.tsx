import { MessagePage } from '@/ui/pages/message/message-page';

export default function NotFound() {
  return (
    <MessagePage
      title="There is nothing here"
      text="This song does not exist, or it was deleted. The list of songs shows what there is."
    />
  );
}
