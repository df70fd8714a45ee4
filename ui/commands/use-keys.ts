'use client';
import { useEffect } from 'react';
import { useSession } from '../session';
import { useCommandStore } from './command-store';
import { matchesKey } from './keys';

/** A text field that holds something not yet kept: undo belongs to it then. */
const hasDraft = (target: Element | null) => target instanceof HTMLElement && target.dataset.draft !== undefined;
/** A figure that is not being typed into has no use for a space. */
const isFigureAtRest = (target: Element | null, event: KeyboardEvent) =>
  event.key === ' ' && target instanceof HTMLElement && target.dataset.figure !== undefined && !hasDraft(target);
const isTyping = (target: Element | null) =>
  target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement;
const isSheetOpen = () => document.querySelector('[role="dialog"], [role="menu"], [role="listbox"]') !== null;

/**
 * The keys of the main view. A text field keeps its keys, but for commands with Ctrl or Cmd that it has no use for. Space
 * presses a button only for those who got there by keyboard; after a click it plays.
 */
export function useKeys(): void {
  useEffect(() => {
    let byPointer = true;
    const onPointer = () => (byPointer = true);
    const onDown = (event: KeyboardEvent) => {
      if (event.key === 'Tab') byPointer = false;
      if (isSheetOpen()) return;
      const target = document.activeElement;
      if (isTyping(target) && !isFigureAtRest(target, event)) {
        const isUndo =
          matchesKey(event, { key: 'z', mod: true }) || matchesKey(event, { key: 'z', mod: true, shift: true });
        if (!(event.ctrlKey || event.metaKey) || (isUndo && hasDraft(target))) return;
      }
      if (event.key === ' ' && !byPointer && target?.closest('button, a, [role="button"]')) return;
      // A focused handle takes the arrows for itself.
      if (event.key.startsWith('Arrow') && target?.closest('[role="slider"], [role="separator"]')) return;
      if (event.key.toLowerCase() === 'b' && !event.shiftKey && !event.ctrlKey && !event.metaKey && !event.altKey) {
        if (!event.repeat) useSession.getState().setBefore(true);
        event.preventDefault();
        return;
      }
      const command = useCommandStore.getState().commands.find(({ key }) => key && matchesKey(event, key));
      if (!command) return;
      event.preventDefault();
      event.stopPropagation();
      command.run();
    };
    const onUp = (event: KeyboardEvent) => {
      // Space must not press the button that a click left focused.
      if (event.key === ' ' && byPointer && !isTyping(document.activeElement) && !isSheetOpen()) event.preventDefault();
      if (event.key.toLowerCase() === 'b' && !event.shiftKey && !isTyping(document.activeElement))
        useSession.getState().setBefore(false);
    };
    window.addEventListener('pointerdown', onPointer, true);
    window.addEventListener('keydown', onDown, true);
    window.addEventListener('keyup', onUp, true);
    return () => {
      window.removeEventListener('pointerdown', onPointer, true);
      window.removeEventListener('keydown', onDown, true);
      window.removeEventListener('keyup', onUp, true);
    };
  }, []);
}
