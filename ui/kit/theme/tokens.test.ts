import { cssVariables, DAY, NIGHT, type Tokens } from './tokens';

/** Relative luminance. Source: WCAG 2.2. */
function luminance(colour: string): number {
  const [r, g, b] = [1, 3, 5].map((at) => {
    const value = parseInt(colour.slice(at, at + 2), 16) / 255;
    return value <= 0.04045 ? value / 12.92 : ((value + 0.055) / 1.055) ** 2.4;
  });
  return 0.2126 * r + 0.7152 * g + 0.0722 * b;
}
function contrast(first: string, second: string): number {
  const [light, dark] = [luminance(first), luminance(second)].sort((a, b) => b - a);
  return (light + 0.05) / (dark + 0.05);
}

// WCAG 2.2 AA: 4.5 for text (1.4.3), 3 for what must be seen to use a control (1.4.11).
describe.each<[string, Tokens]>([
  ['day', DAY],
  ['night', NIGHT],
])('%s', (_, tokens) => {
  const grounds = [tokens.paper, tokens.field, tokens.selected];
  test.each(['ink', 'soft', 'accent', 'claim'] as const)('text in %s can be read on every ground', (name) => {
    for (const ground of grounds) expect(contrast(tokens[name], ground)).toBeGreaterThanOrEqual(4.5);
  });
  test('text on the accent can be read', () =>
    expect(contrast(tokens.onAccent, tokens.accent)).toBeGreaterThanOrEqual(4.5));
  test('nine inks, each to be seen on the field', () => {
    expect(new Set(tokens.inks).size).toBe(9);
    for (const ink of tokens.inks) expect(contrast(ink, tokens.field)).toBeGreaterThanOrEqual(3);
  });
});

test('both tunings have the same names', () => {
  const names = (tokens: Tokens) => cssVariables(tokens).replace(/#[0-9A-F]{6}/gi, '');
  expect(names(DAY)).toBe(names(NIGHT));
  expect(cssVariables(DAY)).toContain('--on-accent: #FFFFFF;');
});
