'use client';
import { useLayoutEffect } from 'react';
import { isDragging } from '../../kit/gestures/drag';
import { plainKey } from '../../kit/gestures/plain-key';
import { useDesk, type Desk } from '../desk/desk';
import { runCommand, useCommandStore } from './command-store';
import { Holds } from './holds';
import { matchesKey } from './keys';

/** Inputs that nothing is typed into. */
const NOT_TYPED = ['range', 'checkbox', 'radio'];
const isField = (target: Element | null): target is HTMLInputElement | HTMLTextAreaElement =>
  target instanceof HTMLTextAreaElement || (target instanceof HTMLInputElement && !NOT_TYPED.includes(target.type));
/** A text field that holds something not yet kept: undo belongs to it then. */
const hasDraft = (target: HTMLElement) => target.dataset.draft !== undefined;
/** A figure that is not being typed into has no use for a space. */
const isFigureAtRest = (target: HTMLElement) => target.dataset.figure !== undefined && !hasDraft(target);
/** Sheets, menus and open lists keep all keys to themselves. */
const isOverlayOpen = () => document.querySelector('[role="dialog"], [role="menu"], [role="listbox"]') !== null;
/** What moves by arrow keys itself, also where one of the four means nothing to it. */
const FOR_ARROWS = '[role="slider"], [role="separator"], [role="tab"], [role="option"], [role="row"], [role="radio"]';
const BUTTONS = 'button, a, [role="button"], [type="checkbox"]';

/** What Ctrl and Cmd do in every text field. */
const FIELD_CHORDS = ['a', 'c', 'v', 'x'];

/** True where a key means something to the text field that has the focus. */
function belongsToField(event: KeyboardEvent, target: Element | null): boolean {
  if (!isField(target)) return false;
  if (event.key === ' ' && isFigureAtRest(target)) return false;
  if (!event.ctrlKey && !event.metaKey) return true;
  const letter = plainKey(event);
  return FIELD_CHORDS.includes(letter) || (['y', 'z'].includes(letter) && hasDraft(target));
}

/** Runs what a key stands for. @returns true when it stands for something */
function obeys(desk: Desk, event: KeyboardEvent): boolean {
  const { commands } = useCommandStore.of(desk);
  const command = commands.find(({ key, otherKey }) => [key, otherKey].some((own) => own && matchesKey(event, own)));
  if (!command) return false;
  if (!isDragging() || command.duringDrag) command.run();
  return true;
}

/**
 * The keys of the main view: heard after the controls had them. Three come first: those of what is held or stays (a probe hears its arrows
 * wherever the focus is), and Space after a click, which plays and does not press the button that the click has left focused.
 */
export function useKeys(): void {
  const desk = useDesk();
  useLayoutEffect(() => {
    const holds = new Holds(useCommandStore.of(desk).holds);
    let byPointer = true;
    const onPointer = () => (byPointer = true);
    const taken = (event: KeyboardEvent) => {
      event.preventDefault();
      event.stopPropagation();
    };
    const onCapture = (event: KeyboardEvent) => {
      if (event.key === 'Tab') byPointer = false;
      const target = document.activeElement;
      if (isOverlayOpen() || belongsToField(event, target)) return;
      if (holds.takes(event)) taken(event);
      else if (event.key === ' ' && byPointer && target?.closest(BUTTONS)) {
        taken(event);
        runCommand(desk, 'play');
      }
    };
    const onKey = (event: KeyboardEvent) => {
      const target = document.activeElement;
      if (event.defaultPrevented || isOverlayOpen() || belongsToField(event, target)) return;
      if (event.key.startsWith('Arrow') && target?.closest(FOR_ARROWS)) return;
      if (event.key === ' ' && target?.closest(BUTTONS)) return;
      if (holds.begins(event, isDragging()) || obeys(desk, event)) taken(event);
    };
    const onUp = (event: KeyboardEvent) => {
      // Space must not press the button that a click left focused.
      if (event.key === ' ' && byPointer && !isField(document.activeElement) && !isOverlayOpen())
        event.preventDefault();
      holds.up(event);
    };
    const onLeave = () => holds.release();
    window.addEventListener('pointerdown', onPointer, true);
    window.addEventListener('keydown', onCapture, true);
    window.addEventListener('keydown', onKey);
    window.addEventListener('keyup', onUp, true);
    window.addEventListener('blur', onLeave);
    return () => {
      holds.release();
      window.removeEventListener('pointerdown', onPointer, true);
      window.removeEventListener('keydown', onCapture, true);
      window.removeEventListener('keydown', onKey);
      window.removeEventListener('keyup', onUp, true);
      window.removeEventListener('blur', onLeave);
    };
  }, [desk]);
}
