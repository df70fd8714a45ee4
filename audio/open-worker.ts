const FAILED =
  'A part of this page could not be had from the server, or failed, and what it does is missing. Your song is as it was: reload the page when the server is back.';

/** Opens a worker of the page. @param failed hears in words that its script did not come, or failed: what it was asked is not answered then */
export function openWorker(url: string, failed: (message: string) => void): Worker {
  const worker = new Worker(url);
  worker.onerror = () => failed(FAILED);
  return worker;
}
