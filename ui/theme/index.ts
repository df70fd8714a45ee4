export { GlobalStyle } from './global-style';
export { currentTokens, useTheme, type ThemeChoice } from './theme-store';
export { SANS, SERIF } from './tokens';
