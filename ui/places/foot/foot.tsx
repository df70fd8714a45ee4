'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import styled from 'styled-components';
import { useDesk } from '../../window/desk/desk';
import { HEADS_WIDTH } from '../../kit/axis/heads-width';
import { Announcer, Unseen } from '../../kit/controls/announcer';
import { useSession } from '../../window/sound/session-store';
import { showText } from '../../kit/frames/show';
import { useFrames } from '../../kit/frames/use-frames';
import { useSong, useSongStore } from '../../window/song/song-store';
import { TextButton } from '../../kit/controls/button';
import { useFreezeSheet } from '../../work/freeze/freeze-store';
import { isTooMuch, loadText } from './load-text';
import { audioState, soundOf } from '../../window/sound/audio-state';
import { withKeysOfHere } from '../../window/commands/keys';
import { useSaved } from '../../window/outbox/link';
import type { SavedState } from '../../window/outbox/outbox';

const SAVED: Record<SavedState, string> = {
  saved: 'Saved',
  saving: 'Saving …',
  unreachable: 'The server cannot be reached; changes wait here',
  full: 'The disk of the server is full; changes wait here until there is room',
  unable: 'The server cannot save; changes wait here.',
  deleted: 'This song was deleted; changes wait here until it is put back',
};
const PLAIN_HINT = 'Ctrl K lists every command and its key';

/** Saved state, a hint for what is under the pointer or focused, sample rate, engine load. */
export function Foot() {
  const { saved, why } = useSaved();
  const revision = useSongStore((store) => store.state.revision);
  const rateHz = useSong((song) => song.rateHz);
  return (
    <Line>
      <Saved $problem={isAbsent(saved)} title={why || undefined}>
        {saved === 'saved' ? `${SAVED.saved}, revision ${revision}` : `${SAVED[saved]} ${why}`.trimEnd()}
      </Saved>
      <Hint />
      <Announcer />
      <Absence saved={saved} />
      <span>
        {rateHz / 1000} kHz
        <Loading /> · <Load />
      </span>
    </Line>
  );
}

const BACK = 'The server is back; everything is saved.';
const isAbsent = (saved: SavedState) => saved !== 'saved' && saved !== 'saving';

/** What assistive technology is told of the server: that it, or the song, is gone, and that it is back; not of every change that is saved. */
function Absence({ saved }: { saved: SavedState }) {
  const [told, setTold] = useState({ saved, text: '' });
  if (told.saved !== saved) {
    const isBack = saved === 'saved' && told.text !== '';
    setTold({ saved, text: isAbsent(saved) ? SAVED[saved] : isBack ? BACK : told.text });
  }
  return <Unseen role="status">{told.text}</Unseen>;
}

function Hint() {
  const [hint, setHint] = useState(PLAIN_HINT);
  useEffect(() => {
    const show = (event: Event) => {
      const found = event.target instanceof Element ? event.target.closest<HTMLElement>('[data-hint]') : null;
      setHint(found?.dataset.hint ?? PLAIN_HINT);
    };
    document.addEventListener('pointerover', show);
    document.addEventListener('focusin', show);
    return () => {
      document.removeEventListener('pointerover', show);
      document.removeEventListener('focusin', show);
    };
  }, []);
  return <HintText>{withKeysOfHere(hint)}</HintText>;
}

/** How much of the sound is here, in a component of its own: it changes with every page that comes in. */
function Loading() {
  const percent = useSession((session) => Math.floor(session.loading * 100));
  return percent < 100 ? ` · loading sound ${percent} %` : null;
}

const LOAD_SHOWN_EVERY_MS = 500;
/** What is in the way may only be known some seconds after sound was late. */
const WHY_MS = 6000;

/** The load, written outside React: it changes all the time. */
function Load() {
  const desk = useDesk();
  const text = useRef<HTMLSpanElement>(null);
  const shownAt = useRef(0);
  const [tooMuch, setTooMuch] = useState(false);
  const late = useRef({ count: 0, why: '', until: 0 });
  useFrames(
    useCallback(
      (milliseconds: number) => {
        if (!text.current || milliseconds - shownAt.current < LOAD_SHOWN_EVERY_MS) return;
        shownAt.current = milliseconds;
        const state = audioState(desk);
        const count = state?.lateCount ?? 0;
        if (count > late.current.count) {
          late.current.count = count;
          late.current.until = milliseconds + WHY_MS;
        }
        if (milliseconds < late.current.until) {
          void soundOf(desk)
            .session?.whyLate()
            .then((why) => (late.current.why = why));
        }
        setTooMuch(isTooMuch(state?.load ?? 0));
        showText(text.current, loadText(state?.load ?? 0, count, late.current.why));
      },
      [desk],
    ),
  );
  return (
    <>
      <span ref={text} data-testid="engine-load" data-hint="Share of its time that the audio thread needs">
        engine 0 %
      </span>
      {tooMuch && (
        <TextButton
          data-hint="Plays tracks as renders of their chains, so that the machine need not run them"
          onPress={() => useFreezeSheet.of(desk).setOpen(true)}
        >
          &nbsp;Freeze tracks …
        </TextButton>
      )}
    </>
  );
}

/** Between what is said in the foot, px. */
const GAP = 12;
const Line = styled.footer`
  display: grid;
  grid-template-columns: minmax(${HEADS_WIDTH - GAP}px, auto) minmax(0, 1fr) auto;
  column-gap: ${GAP}px;
  align-items: center;
  padding: 0 16px 0 0;
  border-top: 2px solid var(--grid);
  color: var(--soft);
  font-size: 12px;
  white-space: nowrap;
`;
const Saved = styled.span<{ $problem: boolean }>`
  max-width: 66vw;
  overflow: hidden;
  text-overflow: ellipsis;
  padding-left: 18px;
  ${({ $problem }) => $problem && 'color: var(--accent); font-weight: 600;'}
`;
const HintText = styled.span`
  overflow: hidden;
  text-overflow: ellipsis;
`;
