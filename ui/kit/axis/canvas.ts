'use client';
import { useCallback, useEffect, useRef, type RefObject } from 'react';
import { useEyesOff } from '../eyes/eyes-off';
import { drawInFrame, forgetInFrame } from '../frames/pictures';
import { currentTokens, useTheme } from '../theme/theme-store';
import type { Tokens } from '../theme/tokens';

export type Draw = (context: CanvasRenderingContext2D, width: number, height: number, tokens: Tokens) => void;

/**
 * A canvas that is drawn outside React's render, at most once a frame; plain paper while the eyes are off. What is scrolled out of sight is
 * drawn when it comes back.
 * @param width of the canvas, CSS pixels, as its style has it
 * @param height likewise
 * @param draw draws everything anew; it is called when it changes, when the theme changes, when a typeface has come and when `redraw` asks
 * @param drawAlways draws over it what is no picture of the sound: it is there while the eyes are off, too
 * @returns what asks for a drawing at the next frame
 */
export function useCanvas(
  ref: RefObject<HTMLCanvasElement | null>,
  width: number,
  height: number,
  draw: Draw,
  drawAlways?: Draw,
): () => void {
  const latest = useRef({ draw, drawAlways });
  const size = useRef({ width, height });
  const isInSight = useRef(true);
  const theme = useTheme((state) => state.theme);
  const isOff = useEyesOff((eyes) => eyes.isOff);

  const drawNow = useCallback(() => {
    const canvas = ref.current;
    const context = canvas?.getContext('2d');
    if (!canvas || !context) return;
    // The size is known: asking the canvas for it would lay the page out again in the middle of a frame.
    const ratio = window.devicePixelRatio || 1;
    const [wide, high] = [Math.round(size.current.width * ratio), Math.round(size.current.height * ratio)];
    if (canvas.width !== wide || canvas.height !== high) {
      canvas.width = wide;
      canvas.height = high;
    }
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, size.current.width, size.current.height);
    context.textRendering = 'geometricPrecision';
    const all = [useEyesOff.getState().isOff ? undefined : latest.current.draw, latest.current.drawAlways];
    for (const some of all) some?.(context, size.current.width, size.current.height, currentTokens());
  }, [ref]);
  const redraw = useCallback(() => {
    if (isInSight.current) drawInFrame(drawNow);
  }, [drawNow]);

  useEffect(() => {
    latest.current = { draw, drawAlways };
    size.current = { width, height };
    redraw();
  }, [draw, drawAlways, redraw, width, height, theme, isOff]);
  useEffect(() => {
    if (!ref.current) return;
    const observer = new IntersectionObserver(([{ isIntersecting }]) => {
      const comesBack = isIntersecting && !isInSight.current;
      isInSight.current = isIntersecting;
      if (comesBack) redraw();
    });
    observer.observe(ref.current);
    return () => observer.disconnect();
  }, [ref, redraw]);
  // Words that were drawn before their typeface was there stand in another one.
  useEffect(() => {
    document.fonts.addEventListener('loadingdone', redraw);
    return () => document.fonts.removeEventListener('loadingdone', redraw);
  }, [redraw]);
  useEffect(() => () => forgetInFrame(drawNow), [drawNow]);
  return redraw;
}

/** Fills a region with slanted lines. */
export function hatch(
  context: CanvasRenderingContext2D,
  x: number,
  y: number,
  width: number,
  height: number,
  colour: string,
  spacing = 7,
): void {
  if (width <= 0) return;
  context.save();
  context.beginPath();
  context.rect(x, y, width, height);
  context.clip();
  context.strokeStyle = colour;
  context.lineWidth = 1;
  context.beginPath();
  const first = Math.floor((x - height) / spacing) * spacing;
  for (let at = first; at < x + width + height; at += spacing) {
    context.moveTo(at, y + height);
    context.lineTo(at + height, y);
  }
  context.stroke();
  context.restore();
}
