import { MessagePage } from '@/ui/songs';

export default function NotFound() {
  return (
    <MessagePage
      title="There is nothing here"
      text="This song does not exist, or it was deleted. The list of songs shows what there is."
    />
  );
}
