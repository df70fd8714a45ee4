export type KeyPress = Pick<KeyboardEvent, 'key'> &
  Partial<Pick<KeyboardEvent, 'code' | 'altKey' | 'getModifierState'>>;

/** Signs that some keyboards have only with Alt. */
const TYPED_WITH_ALT = ['[', ']'];
/** What keys are called that are put together with others to a character. */
const OF_SEVERAL = ['Dead', 'Process'];
const LETTER_OR_DIGIT = /^(?:Key|Digit)([A-Z0-9])$/;

/**
 * What a key means to commands, whatever the keyboard's language: letters small, and where it types a letter of another alphabet (я), or a
 * sign because of Alt (Option S is ß on a Mac, Alt 1 is & on a French keyboard), the Latin letter or the digit of its place.
 * @returns a small Latin letter, a digit, a sign, or the key's name: `Enter`
 */
export function plainKey(event: KeyPress): string {
  const { key, code = '', altKey = false } = event;
  const isSign = /^[ -~]$/.test(key);
  if (/^[a-z0-9 ]$/i.test(key)) return key.toLowerCase();
  if (isSign ? !altKey || TYPED_WITH_ALT.includes(key) : key.length > 1 && !OF_SEVERAL.includes(key)) return key;
  // A sign of the third layer is typed, and is no command.
  if (event.getModifierState?.('AltGraph')) return key;
  const [, place] = LETTER_OR_DIGIT.exec(code) ?? [];
  if (place === undefined || (/\d/.test(place) && !altKey)) return key;
  return place.toLowerCase();
}

/** Takes away what is chosen: on many Macs the key of that name is Backspace. */
export const isDeleteKey = ({ key }: Pick<KeyboardEvent, 'key'>): boolean => key === 'Delete' || key === 'Backspace';
