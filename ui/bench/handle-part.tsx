'use client';
import type { KeyboardEvent, PointerEvent, ReactNode } from 'react';
import styled from 'styled-components';
import { FREQUENCY_RANGE_HZ } from '@/core/song';
import { showCrosshair } from '../crosshair';

interface HandlePartProps {
  label: string;
  /** The value on the frequency axis, Hz. */
  valueHz: number;
  valueText: string;
  hint: string;
  cursor: string;
  onDown: (event: PointerEvent<SVGGElement>) => void;
  /** True when the key meant something. */
  onKey: (event: KeyboardEvent<SVGGElement>) => boolean;
  onFocus?: () => void;
  /** Names the part for what gives it the focus. */
  part?: 'cap';
  children: ReactNode;
}

/** A part of a band's handle that can be dragged and focused. */
export function HandlePart({
  label,
  valueHz,
  valueText,
  hint,
  cursor,
  onDown,
  onKey,
  onFocus,
  part,
  children,
}: HandlePartProps) {
  return (
    <Part
      role="slider"
      tabIndex={0}
      aria-label={label}
      aria-valuemin={FREQUENCY_RANGE_HZ.min}
      aria-valuemax={FREQUENCY_RANGE_HZ.max}
      aria-valuenow={valueHz}
      aria-valuetext={valueText}
      data-hint={hint}
      data-part={part}
      style={{ cursor }}
      onPointerDown={onDown}
      onDoubleClick={(event) => event.stopPropagation()}
      onFocus={(event) => {
        onFocus?.();
        if (event.currentTarget.matches(':focus-visible'))
          showCrosshair({ hz: valueHz, clientY: event.currentTarget.getBoundingClientRect().top });
      }}
      onBlur={() => showCrosshair(null)}
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

const Part = styled.g`
  outline: none;
  touch-action: none;
  .ring {
    display: none;
    fill: none;
    stroke: var(--claim);
    stroke-width: 2;
  }
  &:focus-visible .ring {
    display: inline;
  }
  .grip {
    fill: transparent;
    stroke: none;
  }
`;
