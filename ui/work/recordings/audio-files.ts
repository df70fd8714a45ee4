/** What the names of recordings end with. */
export const AUDIO_FILES = [
  '.wav',
  '.wave',
  '.rf64',
  '.bwf',
  '.aif',
  '.aiff',
  '.aifc',
  '.flac',
  '.mp3',
  '.ogg',
  '.oga',
  '.opus',
];

/** What the dialog that chooses files offers. */
export const CHOSEN_FILES = [...AUDIO_FILES, 'audio/*'];
