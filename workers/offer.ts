import { expose } from 'comlink';
import { IS_HERE } from '@/audio/open-worker';

/** Answers what the page asks of this worker, and says that it is here: until then the page keeps its questions. */
export function offer(answers: object): void {
  expose(answers);
  postMessage(IS_HERE);
}
