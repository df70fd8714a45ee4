import { CURVE_HZ, type Recall, type RecallLine, type RecallStrip } from './recall';

/** Text as it may stand in HTML. */
export const escaped = (text: string): string => text.replace(/[&<>"']/g, (letter) => `&#${letter.charCodeAt(0)};`);

const WIDTH = 620;
const HEIGHT = 110;
const RANGE_DB = 18;
const TICKS_HZ = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];

const xOf = (hz: number) => (Math.log(hz / 20) / Math.log(1000)) * WIDTH;
const yOf = (db: number, range: number) => HEIGHT / 2 - (Math.max(-range, Math.min(range, db)) / range) * (HEIGHT / 2);
const rounded = (value: number) => String(Math.round(value * 10) / 10);
const tickName = (hz: number) => (hz < 1000 ? String(hz) : `${hz / 1000}k`);

/** The curve of a strip as a drawing, with its scale. */
function curveSvg(curveDb: readonly number[], name: string): string {
  const range = Math.max(6, Math.min(RANGE_DB, Math.ceil(Math.max(...curveDb.map(Math.abs)) / 6) * 6));
  const points = curveDb.map((db, i) => `${rounded(xOf(CURVE_HZ[i]))},${rounded(yOf(db, range))}`).join(' ');
  const ticks = TICKS_HZ.map((hz) => {
    const anchor = hz === 20 ? 'start' : hz === 20000 ? 'end' : 'middle';
    return `<line x1="${rounded(xOf(hz))}" x2="${rounded(xOf(hz))}" y1="0" y2="${HEIGHT}" class="grid"/><text x="${rounded(xOf(hz))}" y="${HEIGHT + 13}" text-anchor="${anchor}">${tickName(hz)}</text>`;
  }).join('');
  const levels = [range, 0, -range]
    .map(
      (db) =>
        `<text x="${WIDTH + 6}" y="${rounded(Math.min(HEIGHT - 1, Math.max(9, yOf(db, range) + 4)))}">${db > 0 ? '+' : db < 0 ? '−' : ''}${Math.abs(db)} dB</text>`,
    )
    .join('');
  return `<svg viewBox="0 -2 ${WIDTH + 52} ${HEIGHT + 18}" role="img" aria-label="What the equalizers of ${escaped(name)} do, 20 Hz to 20 kHz">${ticks}<line x1="0" x2="${WIDTH}" y1="${HEIGHT / 2}" y2="${HEIGHT / 2}" class="zero"/><polyline points="${points}"/>${levels}</svg>`;
}

const rows = (lines: readonly RecallLine[]) =>
  lines.length === 0
    ? ''
    : `<dl>${lines
        .map(
          ({ label, text, why }) =>
            `<div><dt>${escaped(label)}</dt><dd>${escaped(text)}${why ? `<q>${escaped(why)}</q>` : ''}</dd></div>`,
        )
        .join('')}</dl>`;

const stripHtml = ({ name, kind, lines, processors, curveDb }: RecallStrip) =>
  `<section><h2>${escaped(name)}${kind === 'group' || kind === 'return' ? ` <small>${kind}</small>` : ''}</h2>${
    curveDb ? curveSvg(curveDb, name) : ''
  }${rows(lines)}${processors
    .map(
      (processor) =>
        `<h3${processor.isOn ? '' : ' class="off"'}>${escaped(processor.name)}${processor.isOn ? '' : ', off'}</h3>${rows(processor.lines)}`,
    )
    .join('')}</section>`;

/** The recall sheet as HTML, without a page around it: {@link RECALL_CSS} sets it. */
export function recallArticle({ title, state, lines, strips, passages }: Recall): string {
  const spans = passages
    .map(
      ({ name, when, isOn, changes }) =>
        `<h3${isOn ? '' : ' class="off"'}>${escaped(name)}, ${when}${isOn ? '' : ', off'}</h3><ul>${changes
          .map((text) => `<li>${escaped(text)}</li>`)
          .join('')}</ul>`,
    )
    .join('');
  return `<article class="recall"><header><h1>${escaped(title)}${state ? `<small>${escaped(state)}</small>` : ''}</h1>${rows(lines)}</header>${strips
    .map(stripHtml)
    .join('')}${passages.length > 0 ? `<section><h2>Passages</h2>${spans}</section>` : ''}</article>`;
}

/** How the sheet is set, on a screen and on paper: a track is not torn apart where it fits a page. Colours: custom properties, or ink on paper. */
export const RECALL_CSS = `
.recall { max-width: 760px; color: var(--ink, #1d2b3a); font-size: 14px; line-height: 1.35; }
.recall h1 { margin: 0 0 10px; font: italic 400 30px/1.15 'Source Serif 4', Georgia, serif; }
.recall h1 small { margin-left: 12px; font-size: 18px; }
.recall h2 { margin: 0 0 6px; font: italic 400 22px/1.2 'Source Serif 4', Georgia, serif; break-after: avoid; }
.recall h2 small { font-size: 15px; color: var(--soft, #586571); }
.recall h3 { margin: 12px 0 2px; font-size: 14px; font-weight: 600; break-after: avoid; }
.recall .off { color: var(--soft, #586571); }
.recall section { padding: 18px 0 14px; border-top: 1.5px solid var(--ink, #1d2b3a); break-inside: avoid-page; }
.recall header { padding-bottom: 16px; }
.recall dl { margin: 0; }
.recall dl > div { display: grid; grid-template-columns: 150px minmax(0, 1fr); gap: 12px; padding: 2px 0; border-bottom: 1px solid var(--grid, #e3dcc6); break-inside: avoid; }
.recall dt { color: var(--soft, #586571); overflow-wrap: anywhere; }
.recall dd { margin: 0; font-weight: 600; overflow-wrap: anywhere; }
.recall q { display: block; font: italic 400 14px/1.35 'Source Serif 4', Georgia, serif; quotes: none; }
.recall ul { margin: 2px 0 0; padding-left: 18px; }
.recall svg { display: block; width: 100%; height: auto; margin: 4px 0 8px; }
.recall svg text { font-size: 10.5px; fill: var(--soft, #586571); }
.recall svg .grid { stroke: var(--grid, #e3dcc6); }
.recall svg .zero { stroke: var(--soft, #586571); stroke-width: 0.8; }
.recall svg polyline { fill: none; stroke: var(--claim, #0c7268); stroke-width: 2; stroke-linejoin: round; }
@media print { .recall { max-width: none; font-size: 10.5pt; } @page { margin: 16mm 15mm; } }
`;

/** A page of its own, without anything from elsewhere. */
export const recallPage = (recall: Recall): string => `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width">
<title>${escaped(recall.title)}: recall</title>
<style>body { margin: 32px auto; max-width: 760px; padding: 0 20px; background: #fff; font-family: 'Barlow Semi Condensed', 'Arial Narrow', sans-serif; }${RECALL_CSS}</style></head>
<body>${recallArticle(recall)}</body></html>
`;
