import { OrvidError } from '@/core/errors';
import { Unreachable } from '../server/request';
import type { PendingEdit } from '../song/song-state';
import { LeftEdits } from './left-edits';

/** What the server made of an edit: the revision that it has, or why it was refused. */
export type Outcome = { id: string; revision: number } | { id: string; error: { message: string; kept?: string } };

/**
 * `saved`: all is in the journal; `saving`: on its way; else it waits here. `unreachable`: until the server is back; `full`: until its disk has
 * room; `unable`: until it can write; `deleted`: until the song, which it does not have any more, is brought back.
 */
export type SavedState = 'saved' | 'saving' | Absence;
export type Absence = 'unreachable' | 'full' | 'unable' | 'deleted';

/** What an error of the server says about the song's edits. */
function absenceOf(error: unknown): Absence {
  if (!(error instanceof OrvidError) || error instanceof Unreachable) return 'unreachable';
  if (error.code === 'not-found') return 'deleted';
  return error.code === 'disk-full' ? 'full' : 'unable';
}

export interface OutboxListener {
  onAccepted: (edit: PendingEdit, revision: number) => void;
  onRefused: (edit: PendingEdit, reason: Pick<OrvidError, 'message' | 'kept'>) => void;
  /** @param why what the server said, where it is `unable` */
  onState: (state: SavedState, why: string) => void;
}

/** @throws OrvidError; of a code in {@link REFUSALS} where the server does not want the request, of another where it could not be had */
export type Post = (edits: readonly PendingEdit[]) => Promise<Outcome[]>;

const FIRST_WAIT_MS = 1000;
const LONGEST_WAIT_MS = 30_000;
const MOST_AT_ONCE = 100;
/** Codes that say that the request itself is at fault: sent again it would be refused again. */
const REFUSALS: readonly string[] = ['invalid-input', 'too-large', 'unreadable-audio', 'conflict'];

/**
 * The edits of one window on their way to the server, in order. It outlives the view: what is in it when the song is left is sent all the
 * same, and what is in it when the window is closed lies in the browser's storage for the next visit. Sent twice an edit does no harm,
 * since the server knows its id.
 */
export class Outbox {
  private waiting: readonly PendingEdit[] = [];
  private isSending = false;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private failures = 0;
  /** Fewer where a request was refused: until it is known which edit is at fault. */
  private atOnce = MOST_AT_ONCE;
  private listener: OutboxListener | null = null;

  constructor(
    private readonly post: Post,
    private readonly stored: Pick<LeftEdits, 'write'>,
  ) {}

  get isEmpty(): boolean {
    return this.waiting.length === 0;
  }

  /** True where all that waits here would survive the window. */
  isSafe = true;

  /** Whom it tells; null while nobody looks. */
  listen(listener: OutboxListener | null): void {
    this.listener = listener;
  }

  /** Takes the edits that are on their way; those that are new are sent, in their order. */
  set(pending: readonly PendingEdit[]): void {
    if (pending === this.waiting) return;
    const isMore = pending.length > this.waiting.length;
    this.keep(pending);
    if (isMore && this.timer === undefined) void this.send();
  }

  /** The server is there again: nothing waits any longer. */
  wake(): void {
    clearTimeout(this.timer);
    this.timer = undefined;
    this.failures = 0;
    if (this.isEmpty) this.tell('saved');
    else void this.send();
  }

  /** Why nothing can be saved, as another request has found out. */
  sleep(error: unknown): Absence {
    const absence = absenceOf(error);
    this.tell(absence, absence === 'unable' ? (error as OrvidError).message : '');
    return absence;
  }

  private tell(state: SavedState, why = ''): void {
    this.listener?.onState(state, why);
  }

  private keep(waiting: readonly PendingEdit[]): void {
    this.waiting = waiting;
    this.isSafe = this.stored.write(waiting);
  }

  private async send(): Promise<void> {
    if (this.isSending) return;
    this.isSending = true;
    try {
      while (!this.isEmpty) {
        this.tell('saving');
        await this.sendSome();
        this.failures = 0;
      }
      this.tell('saved');
    } catch (error) {
      if (this.sleep(error) === 'deleted') return;
      const wait = Math.min(LONGEST_WAIT_MS, FIRST_WAIT_MS * 2 ** this.failures++);
      this.timer ??= setTimeout(() => this.tryAgain(), wait);
    } finally {
      this.isSending = false;
    }
  }

  private tryAgain(): void {
    this.timer = undefined;
    void this.send();
  }

  private async sendSome(): Promise<void> {
    const sent = this.waiting.slice(0, this.atOnce);
    try {
      for (const outcome of await this.post(sent)) {
        const edit = sent.find(({ id }) => id === outcome.id);
        if (!edit) continue;
        this.forget(edit);
        if ('error' in outcome) this.listener?.onRefused(edit, outcome.error);
        else this.listener?.onAccepted(edit, outcome.revision);
      }
      this.atOnce = MOST_AT_ONCE;
    } catch (thrown) {
      const error = thrown as OrvidError;
      if (!REFUSALS.includes(error.code)) throw thrown;
      if (sent.length > 1) {
        this.atOnce = Math.ceil(sent.length / 2);
        return;
      }
      this.forget(sent[0]);
      this.atOnce = MOST_AT_ONCE;
      this.listener?.onRefused(sent[0], error);
    }
  }

  private forget(edit: PendingEdit): void {
    this.keep(this.waiting.filter(({ id }) => id !== edit.id));
  }
}
