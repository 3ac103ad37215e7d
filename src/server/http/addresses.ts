import { subscribe } from 'node:diagnostics_channel';
import type { IncomingMessage } from 'node:http';

/** The names under which the server answers: this machine's own, and those in YSOMERIS_HOSTS, separated by commas. */
export function isAllowedHost(host: string): boolean {
  const name = host.replace(/:\d+$/, '').toLowerCase();
  return ['localhost', '127.0.0.1', '[::1]', ...furtherHosts()].includes(name);
}

/** Whether only this machine's own names are served, so that whoever asks may name its files. */
export const servesThisMachineOnly = (): boolean => furtherHosts().length === 0;

function furtherHosts(): string[] {
  return (process.env.YSOMERIS_HOSTS ?? '').split(',').filter((entry) => entry !== '');
}

/** Where requests are answered whose address cannot be read. */
const UNREADABLE = '/unreadable';

/**
 * Next.js answers an address that is no UTF-8 (such as `%ff`), or holds a control character, with a fault of its own. Node tells of
 * each request before anybody handles it, and such an address is replaced then, so that it is answered like any other wrong one.
 */
export function watchAddresses(): void {
  subscribe('http.server.request.start', (message) => {
    // As Node's documentation of this channel says.
    const { request } = message as { readonly request: IncomingMessage };
    const url = request.url ?? '/';
    if (!isReadable(url)) request.url = url.startsWith('/api/') ? `/api${UNREADABLE}` : UNREADABLE;
  });
}

/** Whether the path and the query of an address can be read, and the path holds no control characters; folders may have any name. */
export function isReadable(url: string): boolean {
  try {
    const [path = '', ...query] = url.split('?').map(decodeURIComponent);
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
    return !/[\u0000-\u001f\u007f]/.test(path) && query.every((part) => !part.includes('\0'));
  } catch {
    return false;
  }
}
