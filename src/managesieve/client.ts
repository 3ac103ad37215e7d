import type { Socket } from 'node:net';
import { ConnectionFault, opened, refuseUnencrypted, type ServerAddress, secured } from '../net/line';
import { ScramClient, ScramFault } from './scram';
import { LineReader, WIRE_LIMITS, WireFault, type WireLimits, type Word, written } from './wire';

export interface ScriptName {
  readonly name: string;
  readonly active: boolean;
}

/** The capabilities a server announces (RFC 5804 section 1.7). */
export interface Capabilities {
  readonly implementation: string;
  readonly sieve: readonly string[];
  readonly sasl: readonly string[];
  readonly starttls: boolean;
  readonly maxRedirects: number | null;
  readonly version: string | null;
}

/** The server answered NO or BYE; its own text is shown in full. */
export class ServerRefusal extends Error {
  constructor(
    readonly answer: 'NO' | 'BYE',
    /** The response code, such as QUOTA/MAXSIZE, NONEXISTENT, ACTIVE, REFERRAL (RFC 5804 section 1.3), or null. */
    readonly code: string | null,
    readonly text: string,
    /** The server it refers to. */
    readonly referral: string | null,
  ) {
    super(
      referral
        ? `The server refers you to ${referral}. Connect there instead.`
        : text || 'The server rejected the request without giving a reason.',
    );
  }
}

/** Limits on what a server can use of this machine; exceeding any of them ends the connection. */
export interface SessionLimits extends WireLimits {
  /** Milliseconds to wait for the next line. */
  readonly idle: number;
  /** Milliseconds for the whole connection. */
  readonly whole: number;
  /** Lines in the whole connection. */
  readonly lines: number;
  /** Octets in the whole connection. */
  readonly octets: number;
}

export const SESSION_LIMITS: SessionLimits = {
  ...WIRE_LIMITS,
  idle: 30_000,
  whole: 120_000,
  lines: 20_000,
  octets: 64 * 1024 * 1024,
};

interface Response {
  /** Lines before the one that ends a response. */
  readonly lines: readonly (readonly Word[])[];
  /** The response code in brackets after OK, and the text after it. */
  readonly code: readonly Word[];
  readonly text: string;
}

type Line = readonly Word[];

/** A connection to a ManageSieve server (RFC 5804), one command at a time. */
export class ManageSieve {
  #socket: Socket;
  #reader: LineReader;
  readonly #lines: Line[] = [];
  #waiting: { resolve: () => void; reject: (error: Error) => void } | null = null;
  #ended: Error | null = null;
  #capabilities: Capabilities | null = null;
  #heard = { lines: 0, octets: 0 };
  readonly #clock: NodeJS.Timeout;

  private constructor(
    socket: Socket,
    readonly address: ServerAddress,
    readonly limits: SessionLimits,
  ) {
    this.#reader = new LineReader(limits);
    this.#socket = socket;
    this.#listen(socket);
    const words = `The connection was closed after ${seconds(limits.whole)}.`;
    this.#clock = setTimeout(() => this.#end(new ConnectionFault(words)), limits.whole);
  }

  /** Connects, starts TLS and reads the capabilities. Refuses unencrypted connections to any machine but this one. */
  static async connect(address: ServerAddress, given: Partial<SessionLimits> = {}): Promise<ManageSieve> {
    const limits = { ...SESSION_LIMITS, ...given };
    refuseUnencrypted(address);
    const socket = await opened(address, limits.idle);
    const client = new ManageSieve(socket, address, limits);
    try {
      await client.#greeting();
      if (address.security === 'starttls') await client.#startTls();
      return client;
    } catch (error) {
      client.close();
      throw error;
    }
  }

  get capabilities(): Capabilities {
    if (!this.#capabilities) throw new Error('the server sent no capabilities');
    return this.#capabilities;
  }

  /** SCRAM-SHA-256 if the server offers it, else PLAIN; never unencrypted to another machine. */
  async authenticate(user: string, password: string): Promise<void> {
    const { sasl } = this.capabilities;
    if (sasl.includes('SCRAM-SHA-256')) await this.#scram(user, password);
    else if (sasl.includes('PLAIN')) await this.#plain(user, password);
    else
      throw new ConnectionFault(
        `The server offers only ${sasl.join(', ') || 'no'} ways to sign in, none of which Ysomeris supports.`,
      );
    // Capabilities may change after signing in (RFC 5804 section 2.1).
    await this.#askCapabilities();
  }

  async list(): Promise<ScriptName[]> {
    const { lines } = await this.#command('LISTSCRIPTS');
    return lines.flatMap(([name, mark]) =>
      name?.kind === 'string'
        ? [{ name: name.value, active: mark?.kind === 'atom' && mark.value.toUpperCase() === 'ACTIVE' }]
        : [],
    );
  }

  async get(name: string): Promise<string> {
    const { lines } = await this.#command('GETSCRIPT', name);
    const text = lines[0]?.[0];
    if (text?.kind !== 'string')
      throw new ConnectionFault('The server sent no script in reply to the request for one.');
    return text.value;
  }

  /**
   * Asks whether the server would accept a script (CHECKSCRIPT); returns its warnings or an empty text, throws its
   * rejection.
   */
  async check(script: string): Promise<string> {
    return warningsIn(await this.#command('CHECKSCRIPT', script));
  }

  /** Uploads a script under a name (PUTSCRIPT) without activating it. */
  async put(name: string, script: string): Promise<string> {
    return warningsIn(await this.#command('PUTSCRIPT', name, script));
  }

  async haveSpace(name: string, octets: number): Promise<void> {
    await this.#send(
      Buffer.concat([Buffer.from('HAVESPACE '), written(name, 'client'), Buffer.from(` ${octets}\r\n`)]),
    );
    await this.#response();
  }

  /** Activates a script; an empty name deactivates all. */
  async activate(name: string): Promise<void> {
    await this.#command('SETACTIVE', name);
  }

  async rename(from: string, to: string): Promise<void> {
    await this.#command('RENAMESCRIPT', from, to);
  }

  async remove(name: string): Promise<void> {
    await this.#command('DELETESCRIPT', name);
  }

  async logout(): Promise<void> {
    try {
      await this.#command('LOGOUT');
    } catch {
      // Whatever the server says to a good-bye, the line is given up.
    } finally {
      this.close();
    }
  }

  close(): void {
    clearTimeout(this.#clock);
    this.#ended ??= new ConnectionFault('The connection was closed.');
    this.#socket.destroy();
  }

  async #greeting(): Promise<void> {
    this.#capabilities = capabilitiesOf(await this.#response());
  }

  async #askCapabilities(): Promise<void> {
    this.#capabilities = capabilitiesOf(await this.#command('CAPABILITY'));
  }

  async #startTls(): Promise<void> {
    if (!this.capabilities.starttls) throw new ConnectionFault('The server does not support STARTTLS.');
    await this.#command('STARTTLS');
    // Data received before TLS started is not authenticated (RFC 5804 section 2.2).
    if (this.#reader.rest > 0 || this.#lines.length > 0)
      throw new ConnectionFault('The server sent data before the connection was encrypted. The connection was closed.');
    this.#socket.removeAllListeners();
    this.#socket = await secured(this.address, this.limits.idle, this.#socket);
    this.#listen(this.#socket);
    await this.#greeting();
  }

  async #plain(user: string, password: string): Promise<void> {
    const response = Buffer.from(`\0${user}\0${password}`, 'utf8').toString('base64');
    await this.#command('AUTHENTICATE', 'PLAIN', response);
  }

  async #scram(user: string, password: string): Promise<void> {
    const scram = new ScramClient(user, password);
    await this.#sendLine('AUTHENTICATE', 'SCRAM-SHA-256', base64(scram.first()));
    try {
      await this.#sendLine(base64(scram.final(await this.#challenge())));
      const next = await this.#lineOf();
      const last = next[0]?.kind === 'string' ? next[0].value : null;
      if (last !== null) {
        scram.checkServer(plain(last));
        await this.#sendLine('');
        await this.#response();
        return;
      }
      const { code } = this.#ending(next) ?? { code: [] };
      const said = code[1]?.kind === 'string' ? plain(code[1].value) : '';
      scram.checkServer(said);
    } catch (error) {
      if (error instanceof ScramFault) throw new ConnectionFault(`Signing in failed: ${error.message}.`);
      throw error;
    }
  }

  /** The server's challenge (RFC 5804 section 2.1). */
  async #challenge(): Promise<string> {
    const line = await this.#lineOf();
    const [first] = line;
    if (first?.kind === 'string') return plain(first.value);
    this.#ending(line);
    throw new ConnectionFault(
      'The server accepted the sign-in before either side proved that it knows the password. The connection was closed.',
    );
  }

  async #command(name: string, ...words: readonly string[]): Promise<Response> {
    const written_ = words.flatMap((word) => [Buffer.from(' '), written(word, 'client')]);
    await this.#send(Buffer.concat([Buffer.from(name), ...written_, Buffer.from('\r\n')]));
    return this.#response();
  }

  async #sendLine(first: string, ...words: readonly string[]): Promise<void> {
    const isCommand = first === 'AUTHENTICATE';
    const head = isCommand ? Buffer.from(first) : written(first, 'client');
    const rest = words.flatMap((word) => [Buffer.from(' '), written(word, 'client')]);
    await this.#send(Buffer.concat([head, ...rest, Buffer.from('\r\n')]));
  }

  async #send(octets: Buffer): Promise<void> {
    if (this.#ended) throw this.#ended;
    await new Promise<void>((resolve, reject) => {
      this.#socket.write(octets, (error) =>
        error ? reject(new ConnectionFault(`The connection was lost: ${error.message}.`)) : resolve(),
      );
    });
  }

  /** All lines up to OK; throws for NO and BYE. */
  async #response(): Promise<Response> {
    const lines: Line[] = [];
    for (;;) {
      const line = await this.#lineOf();
      const end = this.#ending(line);
      if (end) return { ...end, lines };
      lines.push(line);
    }
  }

  /** The code and text after OK; null for a line that does not end the response. Throws for NO and BYE. */
  #ending(line: Line): { readonly code: readonly Word[]; readonly text: string } | null {
    const [first, ...more] = line;
    if (first?.kind !== 'atom') return null;
    const answer = first.value.toUpperCase();
    const code = more[0]?.kind === 'list' ? more[0].items : [];
    const last = more.findLast((word) => word.kind === 'string');
    const text = last?.kind === 'string' ? last.value : '';
    if (answer === 'OK') return { code, text };
    if (answer !== 'NO' && answer !== 'BYE') throw new ConnectionFault(`The server answered “${first.value}”.`);
    const name = code[0]?.kind === 'atom' ? code[0].value.toUpperCase() : null;
    const referral = name === 'REFERRAL' && code[1]?.kind === 'string' ? code[1].value : null;
    throw new ServerRefusal(answer, name, text, referral);
  }

  async #lineOf(): Promise<Line> {
    for (;;) {
      const line = this.#lines.shift();
      if (line !== undefined) return line;
      if (this.#ended) throw this.#ended;
      await new Promise<void>((resolve, reject) => {
        const clock = setTimeout(
          () => reject(new ConnectionFault(`The server did not answer for ${seconds(this.limits.idle)}.`)),
          this.limits.idle,
        );
        const settle = (act: () => void) => {
          clearTimeout(clock);
          this.#waiting = null;
          act();
        };
        this.#waiting = { resolve: () => settle(resolve), reject: (error) => settle(() => reject(error)) };
      });
    }
  }

  #listen(socket: Socket): void {
    socket.on('data', (octets: Buffer) => {
      try {
        if (this.#ended) return;
        this.#heard.octets += octets.length;
        if (this.#heard.octets > this.limits.octets) throw new WireFault('it sent too much data');
        this.#reader.add(octets);
        for (let line = this.#reader.next(); line; line = this.#reader.next()) {
          if (++this.#heard.lines > this.limits.lines) throw new WireFault('it sent too many lines');
          this.#lines.push(line);
        }
        if (this.#lines.length > 0) this.#waiting?.resolve();
      } catch (error) {
        this.#end(
          new ConnectionFault(
            error instanceof WireFault
              ? `The server does not speak ManageSieve correctly: ${error.message}.`
              : String(error),
          ),
        );
      }
    });
    socket.on('error', (error) => this.#end(new ConnectionFault(`The connection was lost: ${error.message}.`)));
    socket.on('close', () => this.#end(new ConnectionFault('The server closed the connection.')));
  }

  #end(error: Error): void {
    clearTimeout(this.#clock);
    this.#ended ??= error;
    this.#socket.destroy();
    this.#waiting?.reject(this.#ended);
  }
}

const seconds = (milliseconds: number): string => `${Math.round(milliseconds / 1000)} s`;

const base64 = (text: string): string => Buffer.from(text, 'utf8').toString('base64');
const plain = (text: string): string => Buffer.from(text, 'base64').toString('utf8');

/** The text of (WARNINGS) (RFC 5804 section 1.3). */
function warningsIn({ code, text }: Response): string {
  const warned = code[0]?.kind === 'atom' && code[0].value.toUpperCase() === 'WARNINGS';
  return warned ? text : '';
}

function capabilitiesOf({ lines }: Response): Capabilities {
  const said = new Map<string, string>();
  for (const [name, value] of lines) {
    if (name?.kind === 'string') said.set(name.value.toUpperCase(), value?.kind === 'string' ? value.value : '');
  }
  const words = (name: string) => (said.get(name) ?? '').split(/\s+/).filter((word) => word !== '');
  const redirects = Number(said.get('MAXREDIRECTS'));
  return {
    implementation: said.get('IMPLEMENTATION') ?? '',
    sieve: words('SIEVE').map((word) => word.toLowerCase()),
    sasl: words('SASL').map((word) => word.toUpperCase()),
    starttls: said.has('STARTTLS'),
    maxRedirects: said.has('MAXREDIRECTS') && Number.isInteger(redirects) && redirects >= 0 ? redirects : null,
    version: said.get('VERSION') ?? null,
  };
}
