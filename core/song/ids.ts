import { customAlphabet } from 'nanoid';

const letters = customAlphabet('ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz', 1);
const lettersAndDigits = customAlphabet('0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz', 21);

/**
 * A name that nothing else has: a letter, then letters and digits, so that it can stand in an address, a file name or a command
 * line without being taken for something else.
 * @param length characters, 2 or more
 */
export function newId(length = 16): string {
  return letters() + lettersAndDigits(length - 1);
}
