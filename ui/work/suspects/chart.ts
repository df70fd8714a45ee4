/** What the pictures of findings have in common. */
export const CHART = {
  width: 236,
  height: 128,
  margin: { top: 6, right: 8, bottom: 0, left: -22 },
  accessibilityLayer: false,
} as const;
/** Where in it the levels are drawn: behind the scale of the library's own width. */
export const CHART_PLOT = { left: 60 - 22, width: 236 - 8 - (60 - 22) };
export const CHART_TEXT = { fill: 'var(--soft)', fontSize: 11 };
export const shortHz = (hz: number) => (hz >= 1000 ? `${Number((hz / 1000).toPrecision(3))}k` : String(Math.round(hz)));
