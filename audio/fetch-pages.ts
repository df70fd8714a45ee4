import { readInto } from './sample-memory';

/** A page of a recording, and where its samples belong: one piece of memory a channel. */
export interface PageRoom {
  audioId: string;
  page: number;
  pieces: readonly Uint8Array[];
}

const LATER = 'It is asked for again when the server is back.';

/** The server knows the page and says why it cannot give it: asked again it would say the same. */
export class Refusal extends Error {}

/**
 * Fetches pages in one request into the memory that is meant for them.
 * @param onPage hears of each page that is there, in their order
 * @throws Refusal in the server's words; Error where it could not be reached or did not give all
 */
export async function fetchPages(pages: readonly PageRoom[], onPage: () => void): Promise<void> {
  const list = pages.map(({ audioId, page }) => `${audioId}.${page}`).join();
  const response = await fetch(`/api/pages/${list}`, { cache: 'no-store' }).catch(() => {
    throw new Error(`the server cannot be reached. ${LATER}`);
  });
  if (!response.ok) throw await errorOf(response);
  const lasts = pages.map((_, i) => pages.slice(0, i + 1).flatMap(({ pieces }) => pieces).length - 1);
  const onPiece = (index: number) => lasts.includes(index) && onPage();
  await readInto(
    response,
    pages.flatMap(({ pieces }) => pieces),
    onPiece,
  );
}

/** Why the server does not give a page, and what to do: its own words, or a number. */
async function errorOf(response: Response): Promise<Error> {
  const answer = (await response.json().catch(() => null)) as { error?: { message: string; kept?: string } } | null;
  if (!answer?.error) return new Error(`status ${response.status}. ${LATER}`);
  return new Refusal([answer.error.message, answer.error.kept].filter(Boolean).join(' '));
}
