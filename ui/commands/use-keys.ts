'use client';
import { useEffect } from 'react';
import { earshotHold, earshotKey } from '../earshot';
import { probeHold, probeKey } from '../probe';
import { useListening } from '../session';
import { useCommandStore } from './command-store';
import { Holds } from './holds';
import { matchesKey } from './keys';

/** A text field that holds something not yet kept: undo belongs to it then. */
const hasDraft = (target: Element | null) => target instanceof HTMLElement && target.dataset.draft !== undefined;
/** A figure that is not being typed into has no use for a space. */
const isFigureAtRest = (target: Element | null, event: KeyboardEvent) =>
  event.key === ' ' && target instanceof HTMLElement && target.dataset.figure !== undefined && !hasDraft(target);
const isTyping = (target: Element | null) =>
  target instanceof HTMLInputElement || target instanceof HTMLTextAreaElement;
const isSheetOpen = () => document.querySelector('[role="dialog"], [role="menu"], [role="listbox"]') !== null;
/** What takes letters for itself: a list that is searched by typing. */
const FOR_ARROWS = '[role="slider"], [role="separator"], [role="tab"], [role="option"], [role="row"]';

const beforeHold = {
  key: 'b',
  begin: () => useListening.getState().setBefore(true),
  end: () => useListening.getState().setBefore(false),
};

/**
 * The keys of the main view. A text field keeps its keys, but for commands with Ctrl or Cmd that it has no use for. Space
 * presses a button only for those who got there by keyboard; after a click it plays.
 */
export function useKeys(): void {
  useEffect(() => {
    const holds = new Holds([beforeHold, probeHold, earshotHold]);
    let byPointer = true;
    const onPointer = () => (byPointer = true);
    const onDown = (event: KeyboardEvent) => {
      if (event.key === 'Tab') byPointer = false;
      if (isSheetOpen()) return;
      const target = document.activeElement;
      if (isTyping(target) && !isFigureAtRest(target, event)) {
        const isUndo =
          matchesKey(event, { key: 'z', mod: true }) || matchesKey(event, { key: 'z', mod: true, shift: true });
        const isClipboard = ['c', 'v'].includes(event.key.toLowerCase());
        if (!(event.ctrlKey || event.metaKey) || isClipboard || (isUndo && hasDraft(target))) return;
      }
      if (event.key === ' ' && !byPointer && target?.closest('button, a, [role="button"]')) return;
      // A probe or an earshot that stays hears its keys as one that is held.
      if (holds.down(event) || probeKey(event) || earshotKey(event)) {
        event.preventDefault();
        event.stopPropagation();
        return;
      }
      // A focused handle takes the arrows for itself.
      if (event.key.startsWith('Arrow') && target?.closest(FOR_ARROWS)) return;
      const command = useCommandStore.getState().commands.find(({ key }) => key && matchesKey(event, key));
      if (!command) return;
      event.preventDefault();
      event.stopPropagation();
      command.run();
    };
    const onUp = (event: KeyboardEvent) => {
      // Space must not press the button that a click left focused.
      if (event.key === ' ' && byPointer && !isTyping(document.activeElement) && !isSheetOpen()) event.preventDefault();
      holds.up(event);
    };
    const onLeave = () => holds.release();
    window.addEventListener('pointerdown', onPointer, true);
    window.addEventListener('keydown', onDown, true);
    window.addEventListener('keyup', onUp, true);
    window.addEventListener('blur', onLeave);
    return () => {
      holds.release();
      window.removeEventListener('pointerdown', onPointer, true);
      window.removeEventListener('keydown', onDown, true);
      window.removeEventListener('keyup', onUp, true);
      window.removeEventListener('blur', onLeave);
    };
  }, []);
}
