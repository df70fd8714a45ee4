/** Where the chosen theme is kept in the browser. */
export const THEME_KEY = 'orvid-theme';
