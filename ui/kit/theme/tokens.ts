/** The two tunings of the chart: paper by day, deep blue by night. Text on paper and field meets WCAG 2.2 AA. */
export interface Tokens {
  paper: string;
  field: string;
  ink: string;
  soft: string;
  grid: string;
  rule: string;
  accent: string;
  onAccent: string;
  claim: string;
  selected: string;
  inks: readonly string[];
}

export const DAY: Tokens = {
  paper: '#EFEADB',
  field: '#FAF7EC',
  ink: '#1D2B3A',
  soft: '#586571',
  grid: '#E3DCC6',
  rule: '#C9BF9F',
  accent: '#B93A1B',
  onAccent: '#FFFFFF',
  claim: '#0C7268',
  selected: '#FFFDF4',
  inks: ['#8A5A00', '#A03B16', '#1F4E9B', '#1D6B45', '#6A3C98', '#9A2258', '#1C6173', '#6C6A10', '#5C4E42'],
};

export const NIGHT: Tokens = {
  paper: '#0E1620',
  field: '#121D29',
  ink: '#E9E3D2',
  soft: '#93A0AC',
  grid: '#22303F',
  rule: '#34465A',
  accent: '#FF7A59',
  onAccent: '#0E1620',
  claim: '#5FC2B4',
  selected: '#1A2A3A',
  inks: ['#E3B04F', '#DE8660', '#85AEEF', '#7CC49B', '#BD96E4', '#E58FB4', '#9CC9D6', '#CFCB6E', '#B8A898'],
};

export type ThemeName = 'day' | 'night';
export const TOKENS: Record<ThemeName, Tokens> = { day: DAY, night: NIGHT };

/** Custom properties, so that styles need not be made anew when the theme changes: `var(--ink)`. */
export function cssVariables(tokens: Tokens): string {
  const { inks, ...plain } = tokens;
  return [
    ...Object.entries(plain).map(
      ([name, value]) => `--${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)}: ${value};`,
    ),
    ...inks.map((value, i) => `--ink-${i}: ${value};`),
  ].join(' ');
}

export const SERIF = "'Source Serif 4', Georgia, serif";
export const SANS = "'Barlow Semi Condensed', 'Arial Narrow', sans-serif";
