import { OrvidError } from '../../errors';

/** A change that would break the song. */
export const refused = (message: string) => new OrvidError('invalid-input', message, 'Nothing was changed.');

/** Ids mean nothing to people, and of what is gone the name is not known any more. */
export function gone(what: string): OrvidError {
  return new OrvidError('not-found', `This ${what} is no longer in the song.`, 'The rest of the song is as it was.');
}
