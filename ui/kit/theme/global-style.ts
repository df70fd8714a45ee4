import { createGlobalStyle } from 'styled-components';
import { cssVariables, DAY, NIGHT, SANS, SERIF } from './tokens';

export const GlobalStyle = createGlobalStyle`
  :root { --serif: ${SERIF}; ${cssVariables(DAY)} color-scheme: light; }
  :root[data-theme='night'] { ${cssVariables(NIGHT)} color-scheme: dark; }
  @media (prefers-color-scheme: dark) {
    :root:not([data-theme='day']) { ${cssVariables(NIGHT)} color-scheme: dark; }
  }
  *, *::before, *::after { box-sizing: border-box; }
  :root { scrollbar-color: var(--rule) transparent; }
  * { scrollbar-width: thin; }
  html, body { height: 100%; margin: 0; }
  /* Fingers that go on past an end do not turn back to the page before, nor load this one anew. */
  html { overscroll-behavior: none; }
  body {
    background: var(--paper);
    color: var(--ink);
    font: 400 13px/1.35 ${SANS};
    font-variant-numeric: tabular-nums;
    -webkit-font-smoothing: antialiased;
    /* Hinted to whole pixels, the semi-bold i loses its dot at most sizes. */
    text-rendering: geometricPrecision;
    user-select: none;
  }
  h1, h2, h3, p { margin: 0; }
  button, input { font: inherit; color: inherit; text-rendering: inherit; }
  input { user-select: text; }
  [data-focus-visible], :focus-visible { outline: 2px solid var(--claim); outline-offset: 1px; }
  /* A border that is there for its size. */
  :root { --unseen: transparent; }
  /* Where the system chooses the colours no tint and no shadow is seen, and clear borders are: what is chosen has its colours, tracks keep their inks. */
  @media (forced-colors: active) {
    :root { --unseen: Canvas; }
    [data-ink] { forced-color-adjust: none; }
    button[data-ink][aria-pressed='true'] { outline: 2px solid CanvasText; }
    button[aria-pressed='true']:not([data-ink]), button[data-selected] {
      /* Else the system lays a plate of its own behind the words. */
      forced-color-adjust: none;
      border-color: Highlight;
      background: Highlight;
      color: HighlightText;
    }
  }
  ::selection { background: var(--claim); color: var(--field); }
`;
