import { OrvidError } from '../errors';
import type { Section } from '../filters/section';

const HEADER = 'b0,b1,b2,a0,a1,a2';
/** Sections of one equalizer: 64 bands of order 16 have no more. */
const MOST_SECTIONS = 600;

/** Second-order sections as CSV, one a line, in full double precision: `b0,b1,b2,a0,a1,a2`. */
export const writeSections = (sections: readonly Section[]): string =>
  [HEADER, ...sections.map(({ b0, b1, b2, a1, a2 }) => [b0, b1, b2, 1, a1, a2].join(','))].join('\n');

const isStable = ({ a1, a2 }: Section) => Math.abs(a2) < 1 && Math.abs(a1) < 1 + a2;

/**
 * Second-order sections from CSV: six numbers a line, `b0,b1,b2,a0,a1,a2`, with or without a line of names; commas, semicolons, tabs or blanks
 * between them, lines that begin with `#` left out.
 * @throws OrvidError `invalid-input` with the line
 */
export function parseSections(text: string, fileName: string): Section[] {
  const refuse = (line: number, problem: string) =>
    new OrvidError('invalid-input', `${fileName}: line ${line + 1}: ${problem}.`, 'Nothing was changed.');
  const sections: Section[] = [];
  const lines = text.split(/\r\n|\r|\n/);
  for (const [i, raw] of lines.entries()) {
    const line = raw.trim();
    if (line === '' || line.startsWith('#')) continue;
    if (sections.length === 0 && /^["']?b_?0/i.test(line)) continue;
    const numbers = line.split(/\s*[,;\t]\s*|\s+/).map(Number);
    if (numbers.length !== 6) throw refuse(i, `six numbers make a section (${HEADER}), and here are ${numbers.length}`);
    if (!numbers.every(Number.isFinite)) throw refuse(i, 'it holds something that is no number');
    const [b0, b1, b2, a0, a1, a2] = numbers;
    if (a0 === 0) throw refuse(i, 'a0 is 0');
    const section = { b0: b0 / a0, b1: b1 / a0, b2: b2 / a0, a1: a1 / a0, a2: a2 / a0 };
    if (!isStable(section)) throw refuse(i, 'the section is not stable: its poles do not lie inside the unit circle');
    if (sections.length === MOST_SECTIONS) throw refuse(i, `there are more than ${MOST_SECTIONS} sections`);
    sections.push(section);
  }
  if (sections.length === 0)
    throw new OrvidError('invalid-input', `${fileName}: it holds no sections (${HEADER}).`, 'Nothing was changed.');
  return sections;
}
