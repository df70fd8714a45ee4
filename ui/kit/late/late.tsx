'use client';
import { useEffect, useState, useSyncExternalStore, type ComponentType, type ReactNode } from 'react';
import styled from 'styled-components';

/** How long after it could not be brought a part is tried again, ms: at first, and at most. */
const AGAIN_MS = 2000;
const MOST_AGAIN_MS = 30_000;
/** Late parts wait no longer than this for the page to be idle, ms: as long as they are not here the page needs the server for them. */
const REST_MS = 300;

/** A part of the page that is not seen at first, and comes in a script of its own. */
class LatePart {
  private state: { Part: ComponentType | null; hasFailed: boolean } = { Part: null, hasFailed: false };
  private readonly followers = new Set<() => void>();
  private coming: Promise<void> | null = null;

  constructor(private readonly load: () => Promise<ComponentType>) {}

  readonly now = () => this.state;

  readonly follow = (changed: () => void) => {
    this.followers.add(changed);
    return () => void this.followers.delete(changed);
  };

  /** Settles when the part is here, or could not be brought. */
  bring(): Promise<void> {
    this.coming ??= this.load()
      .then(
        (Part) => ({ Part, hasFailed: false }),
        () => ({ Part: null, hasFailed: true }),
      )
      .then((state) => {
        this.state = state;
        if (state.hasFailed) this.coming = null;
        this.followers.forEach((changed) => changed());
      });
    return this.coming;
  }

  /** Brings the part, and tries again for as long as that fails. @returns ends it */
  keepBringing(): () => void {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let isEnded = false;
    let pause = AGAIN_MS;
    const attempt = () =>
      void this.bring().then(() => {
        if (!this.state.hasFailed || isEnded) return;
        timer = setTimeout(attempt, pause);
        pause = Math.min(MOST_AGAIN_MS, 2 * pause);
      });
    attempt();
    return () => {
      isEnded = true;
      clearTimeout(timer);
    };
  }
}

const parts: LatePart[] = [];

/**
 * A component that comes in a script of its own, when it is first shown or with {@link AtRest}; where the server does not answer it is tried again.
 * @param load brings it
 * @param Waiting is shown until it is here
 */
export function late(
  load: () => Promise<ComponentType>,
  Waiting: ComponentType<{ hasFailed: boolean }> = () => null,
): ComponentType {
  const part = new LatePart(load);
  parts.push(part);
  return function Late() {
    const { Part, hasFailed } = useSyncExternalStore(part.follow, part.now, part.now);
    useEffect(() => part.keepBringing(), []);
    return Part ? <Part /> : <Waiting hasFailed={hasFailed} />;
  };
}

/** A panel, as {@link late} brings it. */
export const latePanel = (load: () => Promise<ComponentType>) => late(load, Coming);

/** What is not seen at first: shown when the page has drawn everything else. All late parts come then as well, so that they are here when the server is gone. */
export function AtRest({ children }: { children: ReactNode }) {
  const [isAtRest, setAtRest] = useState(false);
  useEffect(() => {
    const endings: (() => void)[] = [];
    const begin = () => {
      setAtRest(true);
      endings.push(...parts.map((part) => part.keepBringing()));
    };
    // Not every browser tells when it is idle.
    if ('requestIdleCallback' in window) {
      const waiting = requestIdleCallback(begin, { timeout: REST_MS });
      endings.push(() => cancelIdleCallback(waiting));
    } else {
      const timer = setTimeout(begin, REST_MS);
      endings.push(() => clearTimeout(timer));
    }
    return () => endings.forEach((end) => end());
  }, []);
  return isAtRest && children;
}

function Coming({ hasFailed }: { hasFailed: boolean }) {
  return (
    <Words role="status">
      {hasFailed ? 'This could not be brought, since the server does not answer. It is tried again.' : 'Coming …'}
    </Words>
  );
}

const Words = styled.p`
  padding: 14px 16px;
  color: var(--soft);
  /* What is here in a moment is not announced. */
  animation: 200ms 300ms both late-words;
  @keyframes late-words {
    from {
      visibility: hidden;
    }
  }
`;
