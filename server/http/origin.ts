import { config } from '../config';

/** The host of a Host header or an origin, without its port. */
function hostName(value: string): string {
  return value
    .replace(/^[a-z]+:\/\//i, '')
    .replace(/:\d+$/, '')
    .toLowerCase();
}

/**
 * Refuses what does not come from the application itself: foreign names for this host (DNS rebinding), and requests that
 * another site makes the browser send. A page may be opened by a link from anywhere.
 * @returns why it is refused; null when it is not
 */
export function checkOrigin(headers: Headers, { isPage = false } = {}): string | null {
  const host = headers.get('host') ?? '';
  if (!config().hosts.includes(hostName(host))) {
    return `This application does not answer as “${host}”. ORVID_HOSTS lists the names it answers to.`;
  }
  if (isPage) return null;
  const origin = headers.get('origin');
  const site = headers.get('sec-fetch-site');
  const isForeign =
    (origin !== null && origin.replace(/^[a-z]+:\/\//i, '') !== host) ||
    (site !== null && site !== 'same-origin' && site !== 'none');
  return isForeign ? 'This request came from another site and was refused.' : null;
}
