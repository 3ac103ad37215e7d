import { createServer, type Server, type Socket } from 'node:net';
import { afterEach, describe, expect, test } from 'vitest';
import { portOf, thrownAs } from '../../test/given';
import { elementAt } from '../core/text/lookup';
import { ConnectionFault } from '../net/line';
import { ManageSieve, type SessionLimits } from './client';
import { LineReader } from './wire';

/** Hostile servers: every connection ends soon, with an error in plain words. */

const GREETING =
  '"IMPLEMENTATION" "x"\r\n"SIEVE" "fileinto"\r\n"SASL" "PLAIN SCRAM-SHA-256"\r\n"VERSION" "1.0"\r\nOK\r\n';
const LIMITS: Partial<SessionLimits> = { octets: 4 * 1024 * 1024, lines: 2000 };
/**
 * Short time limits, so that tests are short; where another limit is tested, a busy machine must not reach these first.
 */
const BRIEF: Partial<SessionLimits> = { ...LIMITS, idle: 1000, whole: 3000 };
const SHORT: Partial<SessionLimits> = { ...LIMITS, whole: 3000 };

let server: Server | null = null;
const sockets = new Set<Socket>();
afterEach(() => {
  for (const socket of sockets) socket.destroy();
  sockets.clear();
  server?.close();
});

/** A server that sends whatever a test wants. */
async function serving(talk: (socket: Socket) => void): Promise<number> {
  const made = createServer((socket) => {
    sockets.add(socket);
    socket.on('error', () => {});
    talk(socket);
  });
  server = made;
  await new Promise<void>((resolve) => made.listen(0, '127.0.0.1', resolve));
  return portOf(made);
}

/** Runs a whole session up to listing scripts; returns the error message. */
async function faultWith(talk: (socket: Socket) => void, limits = LIMITS): Promise<string> {
  const port = await serving(talk);
  const fault = await (async () => {
    const client = await ManageSieve.connect({ host: '127.0.0.1', port, security: 'plain', trusted: null }, limits);
    try {
      await client.authenticate('maren', 'sluice-gate');
      await client.list();
    } finally {
      client.close();
    }
  })().then(
    () => null,
    (error: unknown) => error,
  );
  expect(fault).toBeInstanceOf(ConnectionFault);
  return thrownAs(Error, fault).message;
}

/** Writes the same chunk repeatedly, as fast as the client reads. */
const flood = (socket: Socket, words: string | Buffer) => {
  const write = () => {
    while (!socket.destroyed && socket.write(words));
  };
  socket.on('drain', write);
  write();
};

/** Writes slowly for ever. */
const drip = (socket: Socket, words: string) => {
  let at = 0;
  const clock = setInterval(() => {
    if (socket.destroyed) clearInterval(clock);
    else socket.write(elementAt(words, at++ % words.length));
  }, 20);
};

describe('a server that', () => {
  test.each<[string, (socket: Socket) => void, RegExp]>([
    ['says nothing', () => {}, /did not answer for 1 s/],
    ['drips octets', (socket) => drip(socket, 'a'), /did not answer|closed after 3 s/],
    ['drips a literal', (socket) => drip(socket, '{1000000}\r\naaaaaaaa'), /not answer|closed|not a number/],
  ])('%s', async (_, talk, words) => {
    expect(await faultWith(talk, BRIEF)).toMatch(words);
  });

  test('drips lines', async () => {
    expect(await faultWith((socket) => drip(socket, '"A" "b"\r\n'), SHORT)).toMatch(/closed after 3 s/);
  });

  test.each<[string, (socket: Socket) => void, RegExp]>([
    ['floods lines', (socket) => flood(socket, '"NAME" "value"\r\n'.repeat(500)), /it sent too (much data|many lines)/],
    ['floods one line', (socket) => flood(socket, 'a'.repeat(50_000)), /a line is too long/],
    ['floods a quoted string', (socket) => flood(socket, `"${'a'.repeat(50_000)}`.repeat(3)), /a line is too long/],
    ['announces a huge literal', (socket) => socket.write('{999999999}\r\n'), /a literal is too large/],
    ['sends literals without end', (socket) => flood(socket, `{100000}\r\n${'a'.repeat(100_000)}`), /too (much|long)/],
    [
      'sends garbage',
      (socket) => socket.write(Buffer.from([0, 255, 13, 10, 7, 41, 13, 10])),
      /does not speak ManageSieve correctly/,
    ],
    ['nests lists', (socket) => socket.write(`${'('.repeat(1000)}\r\n`), /nested too deep/],
    ['says good-bye at once', (socket) => socket.end(), /closed the connection/],
    ['answers like another protocol', (socket) => socket.write('220 mail.example ESMTP\r\n'), /answered “220”/],
  ])('%s', async (_, talk, words) => {
    expect(await faultWith(talk)).toMatch(words);
  });

  test('asks for a million rounds', async () => {
    const words = await faultWith((socket) => {
      socket.write(GREETING);
      socket.on('data', (octets: Buffer) => {
        const nonce = /r=([^,"]+)/.exec(
          Buffer.from(/"([^"]{20,})"/.exec(octets.toString())?.[1] ?? '', 'base64').toString(),
        );
        const challenge = Buffer.from(`r=${nonce?.[1]}x,s=c2FsdA==,i=1000000`).toString('base64');
        socket.write(`"${challenge}"\r\n`);
      });
    });
    expect(words).toBe('Signing in failed: the server asked for 1000000 iterations, where 4096 to 100000 are allowed.');
  });

  test('offers no STARTTLS, since somebody on the way removed it: the client sends nothing', async () => {
    const heard: Buffer[] = [];
    const port = await serving((socket) => {
      socket.on('data', (octets) => heard.push(octets));
      socket.write(GREETING);
    });
    const address = { host: '127.0.0.1', port, security: 'starttls', trusted: null } as const;
    await expect(ManageSieve.connect(address, LIMITS)).rejects.toThrow('does not support STARTTLS');
    expect(Buffer.concat(heard).toString()).toBe('');
  });

  test.each(['tls', 'starttls'] as const)('speaks no TLS where that is wanted (%s)', async (security) => {
    const port = await serving((socket) => {
      socket.write(GREETING.replace('"VERSION"', '"STARTTLS"\r\n"VERSION"'));
      socket.on('data', () => socket.write('OK\r\n"not TLS"\r\n'));
    });
    const address = { host: '127.0.0.1', port, security, trusted: null };
    await expect(ManageSieve.connect(address, LIMITS)).rejects.toThrow(
      /does not speak TLS|sent data before the connection was encrypted/,
    );
  });
});

test.each(['mail.mill.example', '10.0.0.1', '127.0.0.1.mill.example', '::2'])(
  'an unsecured line to %s is refused',
  async (host) => {
    const address = { host, port: 4190, security: 'plain', trusted: null } as const;
    await expect(ManageSieve.connect(address)).rejects.toThrow('only to this machine');
  },
);

test('what comes octet by octet is read as what comes at once, and as fast', () => {
  const script = 'x'.repeat(200_000);
  const text = `{${script.length}}\r\n${script}\r\n"name" ACTIVE\r\nOK (WARNINGS) "words \\"quoted\\""\r\n`;
  const read = (size: number) => {
    const reader = new LineReader();
    const lines: unknown[] = [];
    for (let at = 0; at < text.length; at += size) {
      reader.add(Buffer.from(text.slice(at, at + size)));
      for (let line = reader.next(); line; line = reader.next()) lines.push(line);
    }
    expect(reader.rest).toBe(0);
    return lines;
  };
  const whole = read(text.length);
  expect(whole).toHaveLength(3);
  for (const size of [1, 2, 7, 4096]) expect(read(size)).toEqual(whole);
});
