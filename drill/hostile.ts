import { once } from 'node:events';
import { type AddressInfo, createServer, type Socket } from 'node:net';
import type { Served } from './server';

/** Hostile mail servers, which the user asks for their scripts. */

const flood = (words: string) => (socket: Socket) => {
  const write = () => {
    while (!socket.destroyed && socket.write(words));
  };
  socket.on('drain', write);
  write();
};
const drip = (words: string) => (socket: Socket) => {
  let at = 0;
  const clock = setInterval(() => {
    if (socket.destroyed) clearInterval(clock);
    else socket.write(words[at++ % words.length] as string);
  }, 50);
};
const GREETING = '"IMPLEMENTATION" "x"\r\n"SIEVE" "fileinto"\r\n"SASL" "PLAIN"\r\nOK\r\n';

const TALKS: Readonly<Record<string, (socket: Socket) => void>> = {
  'a flood of lines': flood('"NAME" "value"\r\n'.repeat(1000)),
  'a flood of one line': flood('a'.repeat(100_000)),
  'a flood of literals': flood(`{1000000}\r\n${'a'.repeat(1_000_000)}\r\n`),
  'octets that drip': drip('a'),
  'lines that drip': drip('"A" "b"\r\n'),
  'a huge literal': (socket) => socket.write('{4000000000}\r\n'),
  garbage: (socket) => socket.write(Buffer.from(Array.from({ length: 5000 }, (_, at) => (at * 37) % 256))),
  silence: () => {},
  'STARTTLS taken away': (socket) => socket.write(GREETING),
};

export interface Asked {
  readonly talk: string;
  readonly status: number;
  readonly seconds: number;
  readonly words: string;
}

/** Connects to all of them at once; returns each error message and its delay. */
export async function askHostile(server: Served, auditId: string): Promise<Asked[]> {
  const all = Object.entries(TALKS).map(async ([name, talk]): Promise<Asked> => {
    const sockets = new Set<Socket>();
    const listener = createServer((socket) => {
      sockets.add(socket);
      socket.on('error', () => {});
      talk(socket);
    }).listen(0, '127.0.0.1');
    await once(listener, 'listening');
    const { port } = listener.address() as AddressInfo;
    const began = Date.now();
    const security = name === 'STARTTLS taken away' ? 'starttls' : 'plain';
    const login = { host: '127.0.0.1', port, security, trusted: null, user: 'maren', password: 'sluice-gate' };
    const { status, data } = await server.json('POST', `/api/audits/${auditId}/server`, {
      login,
      request: { ask: 'look' },
    });
    for (const socket of sockets) socket.destroy();
    listener.close();
    const words = (data as { error?: string } | null)?.error ?? JSON.stringify(data);
    return { talk: name, status, seconds: (Date.now() - began) / 1000, words };
  });
  return Promise.all(all);
}
