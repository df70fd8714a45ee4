'use client';
import type { KeyboardEvent, PointerEvent, ReactNode } from 'react';
import styled from 'styled-components';
import { FREQUENCY_RANGE_HZ } from '@/core/song';
import { showCrosshair } from '../../window/crosshair/crosshair-store';
import { useDesk } from '../../window/desk/desk';
import type { HandlePartName } from './band-sign';

interface HandlePartProps {
  part: HandlePartName;
  label: string;
  /** The value that it moves, with its range: hertz, decibels. */
  value: { now: number; min: number; max: number };
  valueText: string;
  /** The value on the frequency axis, Hz. */
  hz: number;
  hint: string;
  cursor: string;
  onDown: (event: PointerEvent) => void;
  /** True when the key meant something. */
  onKey: (event: KeyboardEvent) => boolean;
  onFocus?: () => void;
  children: ReactNode;
}

export const onAxis = (hz: number) => ({ now: hz, ...FREQUENCY_RANGE_HZ });

/** A part of a band's handle that can be dragged and focused. Where it stands is set outside React. */
export function HandlePart({
  part,
  label,
  value,
  valueText,
  hz,
  hint,
  cursor,
  onDown,
  onKey,
  onFocus,
  children,
}: HandlePartProps) {
  const desk = useDesk();
  return (
    <Part
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-orientation={part === 'arm' || part === 'far' || part === 'boost' || part === 'cut' ? 'vertical' : undefined}
      aria-valuemin={value.min}
      aria-valuemax={value.max}
      aria-valuenow={value.now}
      aria-valuetext={valueText}
      data-hint={hint}
      data-part={part}
      style={{ cursor }}
      onPointerDown={onDown}
      onDoubleClick={(event) => event.stopPropagation()}
      onFocus={(event) => {
        onFocus?.();
        if (event.currentTarget.matches(':focus-visible'))
          showCrosshair(desk, { hz, clientY: event.currentTarget.getBoundingClientRect().top });
      }}
      onBlur={() => showCrosshair(desk, null)}
      onKeyDown={(event) => {
        if (event.ctrlKey || event.metaKey || !onKey(event)) return;
        event.preventDefault();
        event.stopPropagation();
      }}
    >
      {children}
    </Part>
  );
}

/** Caps lie above ends and arms, whatever their order: the order is that of Tab. */
const Part = styled.div`
  position: absolute;
  top: 0;
  left: 0;
  z-index: 1;
  width: 0;
  height: 0;
  outline: none;
  touch-action: none;
  &[data-part='cap'] {
    z-index: 2;
  }
  .grip,
  .ring {
    position: absolute;
  }
  .ring {
    display: none;
    border: 2px solid var(--claim);
    border-radius: 3px;
    pointer-events: none;
  }
  &:focus-visible .ring {
    display: block;
  }
`;
