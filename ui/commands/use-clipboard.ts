'use client';
import { useEffect } from 'react';
import { asOrvidError } from '@/core/errors';
import { chosenBand, chosenStrips, copyOf, putCopied, stripName, useSongStore, type Copied } from '../song';

/** What was copied last here: of a text alone it is not known whether it stands for a band or for a whole equalizer. */
let last: Copied | null = null;

const isTyping = () =>
  document.activeElement instanceof HTMLInputElement || document.activeElement instanceof HTMLTextAreaElement;
const isSheetOpen = () => document.querySelector('[role="dialog"]') !== null;
const tell = (text: string, tone?: 'error') => useSongStore.getState().tell(text, tone);

function copied(whole: boolean): Copied | null {
  const { strip, equalizer, band } = chosenBand();
  if (!equalizer?.bands.length) {
    tell(`${stripName(strip)} has no band to copy.`);
    return null;
  }
  last = copyOf(equalizer, whole ? undefined : band?.id);
  tell(last.kind === 'band' ? `Band ${band?.letter} was copied.` : `The equalizer of ${stripName(strip)} was copied.`);
  return last;
}

/** Copies the whole equalizer of the chosen track, to this window's memory and, where the browser allows it, to the clipboard. */
export function copyEqualizer(): void {
  const made = copied(true);
  if (made) navigator.clipboard?.writeText(made.text).catch(() => undefined);
}

function paste(text: string): void {
  const known = last?.text === text ? last : null;
  if (!known && !text.trimStart().startsWith('{')) {
    if (last) putCopied(chosenIds(), last);
    else tell('Nothing to paste: copy a band or an equalizer first.');
    return;
  }
  try {
    // One band by itself is added, several are an equalizer.
    const bands = (JSON.parse(text) as { bands?: unknown[] }).bands?.length;
    putCopied(chosenIds(), known ?? { kind: bands === 1 ? 'band' : 'equalizer', text });
  } catch (thrown) {
    tell(`What was copied is no band and no equalizer. ${asOrvidError(thrown).message}`, 'error');
  }
}

const chosenIds = () => chosenStrips().map(({ id }) => id);

/** Copy and paste by the browser's own keys and menus; the text is an equalizer file, so it goes from song to song and to other programs. */
export function useClipboard(): void {
  useEffect(() => {
    const onCopy = (event: ClipboardEvent) => {
      if (isTyping() || isSheetOpen() || window.getSelection()?.toString()) return;
      const made = copied(false);
      if (!made) return;
      event.clipboardData?.setData('text/plain', made.text);
      event.preventDefault();
    };
    const onPaste = (event: ClipboardEvent) => {
      if (isTyping() || isSheetOpen()) return;
      event.preventDefault();
      paste(event.clipboardData?.getData('text/plain') ?? '');
    };
    document.addEventListener('copy', onCopy);
    document.addEventListener('paste', onPaste);
    return () => {
      document.removeEventListener('copy', onCopy);
      document.removeEventListener('paste', onPaste);
    };
  }, []);
}
