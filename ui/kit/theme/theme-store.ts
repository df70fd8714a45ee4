import { create } from 'zustand';
import { remember, remembered } from '../storage/browser-storage';
import { THEME_KEY } from './theme-key';
import { TOKENS, type ThemeName, type Tokens } from './tokens';

/** `system` follows the system's setting. */
export type ThemeChoice = ThemeName | 'system';

interface ThemeState {
  choice: ThemeChoice;
  /** What is shown. */
  theme: ThemeName;
  choose: (choice: ThemeChoice) => void;
  /** Reads what was chosen before and follows the system; returns a function that ends it. */
  start: () => () => void;
}

const isNight = () => window.matchMedia('(prefers-color-scheme: dark)').matches;
const shown = (choice: ThemeChoice): ThemeName => (choice === 'system' ? (isNight() ? 'night' : 'day') : choice);

export const useTheme = create<ThemeState>((set, get) => {
  const show = (choice: ThemeChoice) => {
    document.documentElement.dataset.theme = shown(choice);
    set({ choice, theme: shown(choice) });
  };
  return {
    choice: 'system',
    theme: 'day',
    choose: (choice) => {
      remember(THEME_KEY, choice);
      show(choice);
    },
    start: () => {
      const stored = remembered(THEME_KEY);
      show(stored === 'day' || stored === 'night' ? stored : 'system');
      const media = window.matchMedia('(prefers-color-scheme: dark)');
      const follow = () => show(get().choice);
      media.addEventListener('change', follow);
      return () => media.removeEventListener('change', follow);
    },
  };
});

/** The colours that are shown now, for what is drawn on a canvas. */
export function currentTokens(): Tokens {
  return TOKENS[useTheme.getState().theme];
}
