'use client';
import { createContext, useContext } from 'react';
import { createStore, useStore, type StateCreator, type StoreApi } from 'zustand';

/**
 * One open song in this page, with everything that belongs to it: its state, what is chosen, how it is listened to, what is measured.
 * It is made when the song is opened and ended when it is left; two songs may be open in one page, each on a desk of its own.
 */
export class Desk {
  private readonly parts = new Map<object, unknown>();
  private readonly endings: (() => void)[] = [];

  constructor(readonly songId: string) {}

  /** A part of this desk, made when it is first asked for. @param make serves as the part's name as well */
  part<T>(make: (desk: Desk) => T): T {
    if (!this.parts.has(make)) this.parts.set(make, make(this));
    return this.parts.get(make) as T;
  }

  /** Calls back when the song is left; what was begun last ends first. */
  onEnd(end: () => void): void {
    this.endings.push(end);
  }

  end(): void {
    for (const end of this.endings.splice(0).reverse()) end();
  }
}

const DeskContext = createContext<Desk | null>(null);

export const DeskProvider = DeskContext.Provider;

/** The desk of the song that a component stands in. */
export function useDesk(): Desk {
  const desk = useContext(DeskContext);
  if (!desk) throw new Error('This component works on a song: it must stand inside a DeskProvider.');
  return desk;
}

/** State of which every desk has its own: a hook inside a song's components, `of` and `api` elsewhere. */
export interface DeskStore<S> {
  (): S;
  <T>(select: (state: S) => T): T;
  /** The state as it is now. */
  of: (desk: Desk) => S;
  /** For changes from outside and for those who follow them. */
  api: (desk: Desk) => StoreApi<S>;
}

export function deskStore<S>(make: (desk: Desk) => StateCreator<S>): DeskStore<S> {
  const makeStore = (desk: Desk) => createStore<S>(make(desk));
  const api = (desk: Desk) => desk.part(makeStore);
  const all = (state: S) => state;
  const use = (select: (state: S) => unknown = all) => useStore(api(useDesk()), select);
  return Object.assign(use as DeskStore<S>, { of: (desk: Desk) => api(desk).getState(), api });
}
