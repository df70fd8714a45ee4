'use client';
import { useEffect } from 'react';
import { asOrvidError } from '@/core/errors';
import { fileFormat, processorIn, processorName } from '@/core/formats';
import { chosenBand, chosenStrip, chosenStrips, stripName } from '../../window/song/selection';
import { copyOf, copyOfProcessor, putCopied, type Copied } from '../../window/song/equalizer-edits';
import { Desk, useDesk } from '../../window/desk/desk';
import { tell } from '../../window/notices/notices';

/** What was copied last here: of a text alone it is not known whether it stands for a band or for a whole equalizer. */
const makeLast = (): { copied: Copied | null } => ({ copied: null });
const lastOf = (desk: Desk) => desk.part(makeLast);

const isTyping = () =>
  document.activeElement instanceof HTMLInputElement || document.activeElement instanceof HTMLTextAreaElement;
const isSheetOpen = () => document.querySelector('[role="dialog"]') !== null;

/** The processor whose name in the chain has the keyboard. */
const focusedProcessor = (desk: Desk) => {
  const id = document.activeElement?.closest<HTMLElement>('[data-processor]')?.dataset.processor;
  return chosenStrip(desk).chain.find((processor) => processor.id === id);
};

function copied(desk: Desk, whole: boolean): Copied | null {
  const processor = whole ? undefined : focusedProcessor(desk);
  if (processor) {
    tell(desk, `${processorName(processor)} was copied.`);
    return (lastOf(desk).copied = copyOfProcessor(processor));
  }
  const { strip, equalizer, band } = chosenBand(desk);
  if (!equalizer?.bands.length) {
    tell(desk, `${stripName(strip)} has no band to copy.`);
    return null;
  }
  const last = copyOf(equalizer, whole ? undefined : band?.id);
  lastOf(desk).copied = last;
  tell(
    desk,
    last.kind === 'band' ? `Band ${band?.letter} was copied.` : `The equalizer of ${stripName(strip)} was copied.`,
  );
  return last;
}

/** Copies the whole equalizer of the chosen track, to this window's memory and, where the browser allows it, to the clipboard. */
export function copyEqualizer(desk: Desk): void {
  const made = copied(desk, true);
  if (made) navigator.clipboard?.writeText(made.text).catch(() => undefined);
}

function paste(desk: Desk, text: string): void {
  const { copied: last } = lastOf(desk);
  const known: Copied | null = processorIn(text)
    ? { kind: 'processor', text }
    : fileFormat(text) === 'orvid.chain'
      ? { kind: 'chain', text }
      : last?.text === text
        ? last
        : null;
  if (!known && !text.trimStart().startsWith('{')) {
    if (last) putCopied(desk, chosenIds(desk), last);
    else tell(desk, 'Nothing to paste: copy a band or an equalizer first.');
    return;
  }
  try {
    // One band by itself is added, several are an equalizer.
    const bands = (JSON.parse(text) as { bands?: unknown[] }).bands?.length;
    putCopied(desk, chosenIds(desk), known ?? { kind: bands === 1 ? 'band' : 'equalizer', text });
  } catch (thrown) {
    tell(desk, `What was copied is no band, equalizer or chain. ${asOrvidError(thrown).message}`, 'error');
  }
}

const chosenIds = (desk: Desk) => chosenStrips(desk).map(({ id }) => id);

/** Copy and paste by the browser's own keys and menus; the text is an equalizer file, so it goes from song to song and to other programs. */
export function useClipboard(): void {
  const desk = useDesk();
  useEffect(() => {
    const onCopy = (event: ClipboardEvent) => {
      if (isTyping() || isSheetOpen() || window.getSelection()?.toString()) return;
      const made = copied(desk, false);
      if (!made) return;
      event.clipboardData?.setData('text/plain', made.text);
      event.preventDefault();
    };
    const onPaste = (event: ClipboardEvent) => {
      if (isTyping() || isSheetOpen()) return;
      event.preventDefault();
      paste(desk, event.clipboardData?.getData('text/plain') ?? '');
    };
    document.addEventListener('copy', onCopy);
    document.addEventListener('paste', onPaste);
    return () => {
      document.removeEventListener('copy', onCopy);
      document.removeEventListener('paste', onPaste);
    };
  }, [desk]);
}
