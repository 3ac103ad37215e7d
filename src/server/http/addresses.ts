import { subscribe } from 'node:diagnostics_channel';
import type { IncomingMessage } from 'node:http';

/** The host names the server answers to: this machine's own, and those in YSOMERIS_HOSTS, separated by commas. */
export function isAllowedHost(host: string): boolean {
  const name = host.replace(/:\d+$/, '').toLowerCase();
  return ['localhost', '127.0.0.1', '[::1]', ...furtherHosts()].includes(name);
}

/** Whether only this machine's own names are served, so that requests may name its files. */
export const servesThisMachineOnly = (): boolean => furtherHosts().length === 0;

function furtherHosts(): string[] {
  return (process.env.YSOMERIS_HOSTS ?? '').split(',').filter((entry) => entry !== '');
}

/** The route for requests with an invalid address. */
const UNREADABLE = '/unreadable';

/**
 * Next.js answers an address that is not UTF-8 (such as `%ff`) or contains a control character with an internal error.
 * A Node diagnostics channel sees each request first and replaces such an address, so that it gets a proper error
 * response.
 */
export function watchAddresses(): void {
  subscribe('http.server.request.start', (message) => {
    // As Node documents this channel.
    const { request } = message as { readonly request: IncomingMessage };
    const url = request.url ?? '/';
    if (!isReadable(url)) request.url = url.startsWith('/api/') ? `/api${UNREADABLE}` : UNREADABLE;
  });
}

/**
 * Whether the path and query of an address can be decoded, and the path contains no control characters; folders may
 * have any name.
 */
export function isReadable(url: string): boolean {
  try {
    const [path = '', ...query] = url.split('?').map(decodeURIComponent);
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
    return !/[\u0000-\u001f\u007f]/.test(path) && query.every((part) => !part.includes('\0'));
  } catch {
    return false;
  }
}
