import { writeBytes, writeLength } from '../formats';
import { escaped } from '../recall';

/** The page for the client: one file that needs nothing else. */

/** Peaks of a waveform's picture. */
export const PROOF_PEAKS = 600;

/** A sound without what was done to it, or with it. */
export interface ProofSide {
  /** What brings it to the loudness of the other side, dB; never above 0. */
  gainDb: number;
  /** Largest values of {@link PROOF_PEAKS} stretches, 0 to 1. */
  peaks: readonly number[];
}

export interface ProofItem {
  id: string;
  name: string;
  before: ProofSide;
  after: ProofSide;
  /** What was done, in words. */
  moves: readonly string[];
}

export interface Proof {
  title: string;
  notes: string;
  seconds: number;
  parts: readonly { name: string; startSeconds: number }[];
  items: readonly ProofItem[];
  /** `27 November 2026`. */
  date: string;
}

/** What the player of the page is told. */
export interface ProofFacts {
  seconds: number;
  items: { id: string; name: string; gainsDb: { before: number; after: number } }[];
}

const WIDTH = 1000;
const HEIGHT = 90;

const outline = (peaks: readonly number[], top: number): string => {
  const point = (peak: number, i: number, side: 1 | -1) =>
    `${((i / Math.max(1, peaks.length - 1)) * WIDTH).toFixed(1)},${(HEIGHT / 2 - (side * Math.min(1, peak / top) * HEIGHT) / 2).toFixed(1)}`;
  return [...peaks.map((peak, i) => point(peak, i, 1)), ...peaks.map((peak, i) => point(peak, i, -1)).reverse()].join(
    ' ',
  );
};

function waveform({ before, after }: ProofItem, { seconds, parts }: Proof): string {
  const level = ({ gainDb, peaks }: ProofSide) => peaks.map((peak) => peak * 10 ** (gainDb / 20));
  const [first, second] = [level(before), level(after)];
  const top = Math.max(1e-4, ...first, ...second);
  const lines = parts
    .map(
      ({ startSeconds }) =>
        `<line x1="${((startSeconds / seconds) * WIDTH).toFixed(1)}" x2="${((startSeconds / seconds) * WIDTH).toFixed(1)}" y1="0" y2="${HEIGHT}"/>`,
    )
    .join('');
  return `<svg viewBox="0 0 ${WIDTH} ${HEIGHT}" preserveAspectRatio="none" aria-hidden="true"><polygon class="after" points="${outline(second, top)}"/><polygon class="before" points="${outline(first, top)}"/>${lines}<line class="head" x1="0" x2="0" y1="0" y2="${HEIGHT}"/></svg>`;
}

const itemHtml = (item: ProofItem, proof: Proof): string => `
<section data-item="${escaped(item.id)}" aria-labelledby="name-${escaped(item.id)}">
<h2 id="name-${escaped(item.id)}">${escaped(item.name)}</h2>
<button type="button" class="play" disabled>Play <span class="hidden">${escaped(item.name)}</span></button>
<div class="wave">${waveform(item, proof)}<input type="range" min="0" max="${proof.seconds.toFixed(2)}" step="0.1" value="0" aria-label="Place in ${escaped(item.name)}" disabled></div>
${item.moves.length > 0 ? `<details><summary>What was done</summary><ul>${item.moves.map((move) => `<li>${escaped(move)}</li>`).join('')}</ul></details>` : ''}
</section>`;

const partsHtml = ({ parts, seconds }: Proof): string =>
  parts.length === 0
    ? ''
    : `<ol class="parts" aria-label="Parts">${parts
        .map(
          ({ name, startSeconds }) =>
            `<li style="left:${((startSeconds / seconds) * 100).toFixed(2)}%"><button type="button" data-at="${startSeconds.toFixed(3)}" disabled>${escaped(name)}</button></li>`,
        )
        .join('')}</ol>`;

const CSS = `
:root { color-scheme: light dark; --paper: #efeadb; --field: #faf7ec; --ink: #1d2b3a; --soft: #566370; --rule: #c9bf9f; --accent: #b0361a; --claim: #0c7268; }
@media (prefers-color-scheme: dark) { :root { --paper: #0e1620; --field: #121d29; --ink: #e9e3d2; --soft: #93a0ac; --rule: #34465a; --accent: #ff7a59; --claim: #5fc2b4; } }
* { box-sizing: border-box; }
body { max-width: 940px; margin: 0 auto; padding: 40px 24px 80px; background: var(--paper); color: var(--ink); font: 16px/1.45 'Helvetica Neue', Arial, sans-serif; }
h1 { margin: 0 0 4px; font: italic 400 38px/1.15 Georgia, 'Times New Roman', serif; }
h2 { margin: 0; font: italic 400 22px/1.2 Georgia, 'Times New Roman', serif; }
.date, .note, .parts button { color: var(--soft); }
.notes { max-width: 640px; white-space: pre-line; }
.desk { position: sticky; top: 0; z-index: 2; display: flex; flex-wrap: wrap; gap: 10px 14px; align-items: center; margin: 20px 0 8px; padding: 12px 0; border-bottom: 2px solid var(--ink); background: var(--paper); }
button { min-height: 34px; padding: 0 14px; border: 1px solid var(--rule); border-radius: 3px; background: var(--field); color: var(--ink); font: inherit; }
button:disabled { opacity: .55; }
button[aria-pressed="true"] { border-color: var(--ink); background: var(--ink); color: var(--field); font-weight: 600; }
:focus-visible { outline: 2px solid var(--claim); outline-offset: 2px; }
.time { min-width: 110px; font-variant-numeric: tabular-nums; }
section { display: grid; grid-template-columns: 1fr auto; gap: 8px 14px; align-items: center; padding: 18px 0; border-bottom: 1px solid var(--rule); }
section[data-on] h2 { color: var(--accent); }
.wave, details { grid-column: 1 / -1; }
.wave { position: relative; height: 84px; background: var(--field); }
.wave svg { position: absolute; inset: 0; width: 100%; height: 100%; }
.wave .after { fill: var(--claim); fill-opacity: .38; }
.wave .before { fill: none; stroke: var(--ink); stroke-width: 1; vector-effect: non-scaling-stroke; stroke-opacity: .75; }
.wave line { stroke: var(--rule); vector-effect: non-scaling-stroke; }
.wave .head { stroke: var(--accent); stroke-width: 2; }
.wave input { position: absolute; inset: 0; width: 100%; height: 100%; margin: 0; opacity: 0; cursor: crosshair; }
.wave:has(input:focus-visible) { outline: 2px solid var(--claim); outline-offset: 2px; }
.parts { position: relative; height: 34px; margin: 10px 0 0; padding: 0; list-style: none; }
.parts li { position: absolute; }
.parts button { padding: 0 4px; border: 0; background: none; text-align: left; }
.hidden { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
.blind { padding: 16px 18px; border: 1px solid var(--ink); background: var(--field); }
.blind[hidden] { display: none; }
.blind p { margin: 0 0 10px; }
.blind div { display: flex; flex-wrap: wrap; gap: 10px; }
.key i { display: inline-block; width: 18px; height: 10px; margin: 0 5px 0 12px; }
.key .after { background: var(--claim); opacity: .5; }
.key .before { border: 1px solid var(--ink); }
`;

const json = (value: unknown) => JSON.stringify(value).replaceAll('<', '\\u003c');

/** A sound inside the page: its text is as large as it is, so it is written by itself. */
export const soundElement = (itemId: string, side: 'before' | 'after', base64: string): string =>
  `<script type="application/octet-stream" data-sound="${escaped(itemId)} ${side}">${base64}</script>\n`;

/**
 * The page up to its sounds, see {@link soundElement}, and what follows them.
 * @param player the program that plays it; nothing for a page to look at
 */
export function proofPage(proof: Proof, player: string | null): { head: string; foot: string } {
  const { title, notes, date, seconds, items } = proof;
  const facts: ProofFacts = {
    seconds,
    items: items.map(({ id, name, before, after }) => ({
      id,
      name,
      gainsDb: { before: before.gainDb, after: after.gainDb },
    })),
  };
  const head = `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'unsafe-inline'; script-src 'unsafe-inline'; img-src data:">
<title>${escaped(title)}: before and after</title><link rel="icon" href="data:,"><style>${CSS}</style></head>
<body><main><h1>${escaped(title)}</h1><p class="date">${escaped(date)}, ${writeLength(seconds)}</p>
${notes.trim() ? `<p class="notes">${escaped(notes.trim())}</p>` : ''}
<div class="desk" role="group" aria-label="What is heard">
<button type="button" id="stop" disabled>Stop</button><span class="time" id="time" role="timer">0:00 of ${writeLength(seconds)}</span>
<button type="button" id="before" aria-pressed="false" disabled>Before</button><button type="button" id="after" aria-pressed="true" disabled>After</button>
<button type="button" id="blind" disabled>Compare blind</button><span class="note" id="state" role="status">${player ? 'Opening the sound …' : 'Its sound is put in when it is made.'}</span></div>
<section class="blind" id="trial" aria-label="Blind comparison" hidden><p id="question" role="status"></p><div></div></section>
<p class="note key">Both at the same loudness.<i class="before"></i>before <i class="after"></i>after. The key B changes between them.</p>
${partsHtml(proof)}${items.map((item) => itemHtml(item, proof)).join('')}
</main>
<script type="application/json" id="facts">${json(facts)}</script>
`;
  const foot = `${player ? `<script>${player.replaceAll('</script', '<\\/script')}</script>` : ''}</body></html>\n`;
  return { head, foot };
}

/** What is said of a proof's size. */
export const sizeWords = (bytes: number): string =>
  `${writeBytes(bytes)}${bytes > 20e6 ? ': larger than most mailboxes take' : bytes > 10e6 ? ': larger than some mailboxes take' : ''}`;
