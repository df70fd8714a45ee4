import type { Recall, RecallLine } from './recall';

/** The recall sheet as text for other programs. */

const inline = (text: string) => text.replace(/([\\`*_|[\]<>])/g, '\\$1').replace(/\s+/g, ' ');
const item = ({ label, text, why }: RecallLine) =>
  `- ${inline(label)}: ${inline(text)}${why ? ` — ${inline(why)}` : ''}`;

/** Markdown (CommonMark): a heading for each strip, a line for each thing that is set. */
export function recallMarkdown({ title, state, lines, strips, passages }: Recall): string {
  const out = [`# ${inline(title)}${state ? `: ${inline(state)}` : ''}`, '', ...lines.map(item)];
  for (const strip of strips) {
    out.push(
      '',
      `## ${inline(strip.name)}${strip.kind === 'track' || strip.kind === 'master' ? '' : ` (${strip.kind})`}`,
    );
    if (strip.lines.length > 0) out.push('', ...strip.lines.map(item));
    for (const { name, isOn, lines: set } of strip.processors)
      out.push('', `### ${inline(name)}${isOn ? '' : ' (off)'}`, '', ...set.map(item));
  }
  if (passages.length > 0) out.push('', '## Passages');
  for (const { name, when, isOn, changes } of passages)
    out.push(
      '',
      `### ${inline(name)}, ${when}${isOn ? '' : ' (off)'}`,
      '',
      ...changes.map((text) => `- ${inline(text)}`),
    );
  return `${out.join('\n')}\n`;
}

/** A field as RFC 4180 has it. What a spreadsheet would take for a formula is made text (OWASP, “CSV Injection”). */
function field(text: string): string {
  const safe = /^[=+@\t\r]|^-(?![\d.])/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** CSV (RFC 4180): `strip,kind,processor,on,what,value,why`, a line for each thing that is set. */
export function recallCsv({ strips, passages }: Recall): string {
  const rows: string[][] = [['strip', 'kind', 'processor', 'on', 'what', 'value', 'why']];
  for (const { name, kind, lines, processors } of strips) {
    for (const { label, text, why } of lines) rows.push([name, kind, '', '', label, text, why]);
    for (const processor of processors)
      for (const { label, text, why } of processor.lines)
        rows.push([name, kind, processor.name, processor.isOn ? 'yes' : 'no', label, text, why]);
  }
  for (const { name, when, isOn, changes } of passages)
    for (const text of changes) rows.push([name, 'passage', '', isOn ? 'yes' : 'no', when, text, '']);
  return rows.map((row) => `${row.map(field).join(',')}\r\n`).join('');
}

/** JSON, versioned as the other files are. */
export const recallJson = (recall: Recall): string =>
  `${JSON.stringify({ format: 'orvid.recall', version: 1, ...recall }, null, 2)}\n`;
