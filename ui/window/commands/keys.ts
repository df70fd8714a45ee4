import { plainKey } from '../../kit/gestures/plain-key';

/** A key with its modifiers. `mod` is Ctrl, or Cmd on a Mac. */
export interface KeyChord {
  key: string;
  mod?: boolean;
  shift?: boolean;
  alt?: boolean;
}

const isMac = () => typeof navigator !== 'undefined' && /mac/i.test(navigator.platform);

export function matchesKey(
  event: Pick<KeyboardEvent, 'key' | 'code' | 'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey'>,
  chord: KeyChord,
): boolean {
  const mod = event.ctrlKey || event.metaKey;
  // Signs such as [ need Shift or Alt on some keyboards: only letters and named keys are strict about them.
  const isSign = chord.key.length === 1 && !/[a-z0-9 ]/i.test(chord.key);
  const shiftFits = isSign || event.shiftKey === (chord.shift ?? false);
  const altFits = isSign || event.altKey === (chord.alt ?? false);
  return plainKey(event) === chord.key && mod === (chord.mod ?? false) && shiftFits && altFits;
}

const modName = () => (isMac() ? '⌘' : 'Ctrl');

/** A hint that names keys, with those of this keyboard: `Ctrl K` is `⌘ K` on a Mac. */
export const withKeysOfHere = (hint: string): string => hint.replace(/\bCtrl\b/g, modName());

const NAMES: Record<string, string> = { ' ': 'Space', ArrowUp: '↑', ArrowDown: '↓' };

/** A key as people read it: `Ctrl Z`, `Shift M`, `Space`. */
export function keyName({ key, mod, shift, alt }: KeyChord): string {
  const parts = [
    mod && modName(),
    alt && (isMac() ? '⌥' : 'Alt'),
    shift && 'Shift',
    NAMES[key] ?? (key.length === 1 ? key.toUpperCase() : key),
  ];
  return parts.filter(Boolean).join(' ');
}
