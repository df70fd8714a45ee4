'use client';
import { useEffect, useRef } from 'react';
import styled from 'styled-components';
import { writeFrequency, writeNote, writeNumber, writeWavelength } from '@/core/formats';
import { drawInFrame, forgetInFrame } from '../../kit/frames/pictures';
import { showText } from '../../kit/frames/show';
import { useDesk } from '../../window/desk/desk';
import { useAxis } from '../../kit/axis/axis-context';
import { onCrosshair, type CrosshairPlace } from '../../window/crosshair/crosshair-store';
import { readLevels } from '../../work/company/company-spectra';

/** More levels than this are not read out beside the line. */
const MOST_READ = 10;

/** One line at one frequency through ruler, lanes and bench, with what that frequency is. */
export function Crosshair() {
  const desk = useDesk();
  const axis = useAxis();
  const line = useRef<HTMLDivElement>(null);
  const label = useRef<HTMLDivElement>(null);
  const overlayTop = useRef(0);
  // Asked for once: in the middle of a gesture the browser would have to lay the page out for it.
  useEffect(() => {
    const measure = () => (overlayTop.current = line.current?.parentElement?.getBoundingClientRect().top ?? 0);
    measure();
    window.addEventListener('resize', measure);
    return () => window.removeEventListener('resize', measure);
  }, [axis]);

  useEffect(() => {
    let place: CrosshairPlace | null = null;
    const draw = () => {
      if (!line.current || !label.current) return;
      line.current.style.display = label.current.style.display = place ? 'block' : 'none';
      if (!place) return;
      const x = axis.x(place.hz);
      line.current.style.transform = `translateX(${x}px)`;
      const lines = [`${writeFrequency(place.hz)} · ${writeNote(place.hz)} · ${writeWavelength(place.hz)}`];
      const levels = readLevels(desk, place.hz, MOST_READ);
      if (levels.length > 1) lines.push(...levels.map(({ name, db }) => `${name} ${writeNumber(db)} dB`));
      showText(label.current, lines.join('\n'));
      const onLeft = x > axis.width - 190;
      label.current.style.transform = `translate(${x + (onLeft ? -8 : 8)}px, ${Math.max(42, place.clientY - overlayTop.current - 30)}px) translateX(${onLeft ? '-100%' : '0'})`;
    };
    const end = onCrosshair(desk, (next) => {
      place = next;
      drawInFrame(draw);
    });
    return () => {
      end();
      forgetInFrame(draw);
    };
  }, [axis, desk]);

  return (
    <Overlay aria-hidden data-testid="crosshair">
      <Line ref={line} />
      <Label ref={label} />
    </Overlay>
  );
}

const Overlay = styled.div`
  grid-column: 2;
  grid-row: 1 / -1;
  position: relative;
  z-index: 5;
  overflow: hidden;
  pointer-events: none;
`;
/** Moved with every move of the pointer: as layers of their own line and label need nothing painted again for it. */
const Line = styled.div`
  will-change: transform;
  display: none;
  position: absolute;
  top: 34px;
  bottom: 0;
  left: 0;
  border-left: 1px dotted var(--accent);
`;
const Label = styled.div`
  will-change: transform;
  display: none;
  position: absolute;
  top: 0;
  left: 0;
  padding: 1px 6px;
  border: 1px solid var(--rule);
  border-radius: 2px;
  background: var(--paper);
  font-size: 12px;
  white-space: pre;
`;
