export { StyleRegistry } from './style-registry';
export { currentTokens, useTheme, type ThemeChoice } from './theme-store';
export { SANS, SERIF, type Tokens } from './tokens';
