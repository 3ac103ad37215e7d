import { randomBytes, timingSafeEqual, X509Certificate } from 'node:crypto';
import type { Socket } from 'node:net';
import { check } from '../core/sieve/check';
import { listing } from '../core/sieve/diagnostics';
import { parse } from '../core/sieve/parse';
import { attributesOf, proofOf } from '../managesieve/scram';
import { LineReader, type Word, written } from '../managesieve/wire';
import { type SelfSigned, securedAsServer, selfSigned } from './certificate';
import { Listener } from './listener';

/** Faults that a stand-in can be told to show. */
export interface Faults {
  /** Closes the connection in the middle of the response to this command. */
  readonly drops: string | null;
  /** Rejects this command, in two lines of text. */
  readonly refuses: string | null;
  /** Milliseconds before each response. */
  readonly slow: number;
  /** Refers every client to another server. */
  readonly refers: string | null;
}

export interface StandInSettings {
  readonly user: string;
  readonly password: string;
  readonly scripts: readonly { readonly name: string; readonly text: string; readonly active: boolean }[];
  /** Sieve capabilities it announces. */
  readonly sieve: readonly string[];
  readonly sasl: readonly string[];
  readonly security: 'starttls' | 'tls' | 'plain';
  /** Octets of one script, and the number of scripts it stores. */
  readonly quota: { readonly octets: number; readonly scripts: number };
  readonly faults: Faults;
}

export const NO_FAULTS: Faults = { drops: null, refuses: null, slow: 0, refers: null };

export const STAND_IN: StandInSettings = {
  user: 'maren',
  password: 'sluice-gate',
  scripts: [],
  sieve: [
    'fileinto',
    'envelope',
    'copy',
    'body',
    'imap4flags',
    'mailbox',
    'relational',
    'comparator-i;ascii-numeric',
    'subaddress',
    'vacation',
    'reject',
  ],
  sasl: ['SCRAM-SHA-256', 'PLAIN'],
  security: 'starttls',
  quota: { octets: 256 * 1024, scripts: 8 },
  faults: NO_FAULTS,
};

/** A ManageSieve server (RFC 5804) for tests and the demo; its scripts are in memory only. */
export class StandIn {
  readonly scripts = new Map<string, string>();
  active: string | null = null;
  faults: Faults;
  /** The SHA-256 fingerprint of its certificate while it listens, as a client sees it. */
  fingerprint: string | null = null;
  readonly #listener = new Listener();

  constructor(readonly settings: StandInSettings = STAND_IN) {
    this.faults = settings.faults;
    for (const { name, text, active } of settings.scripts) {
      this.scripts.set(name, text);
      if (active) this.active = name;
    }
  }

  /** Listens on the loopback address; returns the port. The certificate is a new one if none is given. */
  async listen(port = 0, given: SelfSigned | null = null): Promise<number> {
    const certificate = given ?? (await selfSigned('localhost', Date.now()));
    this.fingerprint = new X509Certificate(certificate.cert).fingerprint256;
    return this.#listener.listen(port, (socket) => new Session(this, socket, certificate).begin());
  }

  close(): Promise<void> {
    return this.#listener.close();
  }
}

/** One connection. */
class Session {
  #reader = new LineReader();
  #secured: boolean;
  #known = false;
  #busy = false;
  #dead = false;
  #scram: { readonly first: string; readonly challenge: string; readonly nonce: string; readonly salt: Buffer } | null =
    null;

  constructor(
    readonly server: StandIn,
    public socket: Socket,
    readonly certificate: SelfSigned,
  ) {
    this.#secured = server.settings.security === 'plain';
  }

  begin(): void {
    if (this.server.settings.security === 'tls') this.#secure();
    else this.#listen();
    const { refers } = this.server.faults;
    if (refers) {
      this.#say(`BYE (REFERRAL "${refers}") "Use that server."`);
      this.socket.end();
    } else this.#capabilities();
  }

  #secure(): void {
    this.socket = securedAsServer(this.socket, this.certificate);
    this.#secured = true;
    this.#reader = new LineReader();
    this.#listen();
  }

  #listen(): void {
    this.socket.on('data', (octets: Buffer) => {
      this.#reader.add(octets);
      void this.#work();
    });
  }

  async #work(): Promise<void> {
    if (this.#busy) return;
    this.#busy = true;
    try {
      for (let line = this.#reader.next(); line && !this.#dead; line = this.#reader.next()) {
        const { slow } = this.server.faults;
        if (slow > 0) await new Promise((resolve) => setTimeout(resolve, slow));
        this.#answer(line);
      }
    } catch (error) {
      this.#say(`BYE ${text(error instanceof Error ? error.message : 'The request is not understood.')}`);
      this.socket.end();
    } finally {
      this.#busy = false;
    }
  }

  #say(line: string): void {
    this.#write(Buffer.from(`${line}\r\n`));
  }

  #write(octets: Buffer): void {
    if (!this.#dead) this.socket.write(octets);
  }

  #answer(line: readonly Word[]): void {
    if (this.#scram) {
      this.#proceed(line);
      return;
    }
    const [first, ...rest] = line;
    const command = first?.kind === 'atom' ? first.value.toUpperCase() : '';
    const words = rest.map((word) => (word.kind === 'list' ? '' : word.value));
    const { drops, refuses } = this.server.faults;
    if (drops === command) {
      this.#write(Buffer.from('{100}\r\nrequire "fil'));
      this.#dead = true;
      this.socket.destroy();
      return;
    }
    if (refuses === command) {
      this.#write(
        Buffer.concat([
          Buffer.from('NO '),
          written('line 1: this script is not accepted.\r\nline 2: nor is this line.', 'server'),
          Buffer.from('\r\n'),
        ]),
      );
      return;
    }
    const answer = this.#perform(command, words);
    if (answer !== null) this.#say(answer);
  }

  #perform(command: string, words: readonly string[]): string | null {
    const [first = '', second = ''] = words;
    switch (command) {
      case 'CAPABILITY':
        this.#capabilities();
        return null;
      case 'NOOP':
        return first ? `OK (TAG ${text(first)}) "Done."` : 'OK "Done."';
      case 'LOGOUT':
        this.#say('OK "Good-bye."');
        this.socket.end();
        return null;
      case 'STARTTLS':
        if (this.#secured) return 'NO "The connection is already encrypted."';
        this.#say('OK "Start TLS now."');
        this.#secure();
        this.#capabilities();
        return null;
      case 'AUTHENTICATE':
        this.#authenticate(first.toUpperCase(), second);
        return null;
      default:
        return this.#known ? this.#performKnown(command, first, second) : 'NO "Sign in first."';
    }
  }

  #performKnown(command: string, first: string, second: string): string | null {
    const { scripts } = this.server;
    switch (command) {
      case 'LISTSCRIPTS':
        for (const name of scripts.keys()) {
          this.#write(
            Buffer.concat([written(name, 'server'), Buffer.from(name === this.server.active ? ' ACTIVE\r\n' : '\r\n')]),
          );
        }
        return 'OK "These."';
      case 'GETSCRIPT': {
        const script = scripts.get(first);
        if (script === undefined) return 'NO (NONEXISTENT) "There is no such script."';
        const octets = Buffer.from(script, 'utf8');
        this.#write(Buffer.concat([Buffer.from(`{${octets.length}}\r\n`), octets, Buffer.from('\r\n')]));
        return 'OK "This."';
      }
      case 'HAVESPACE':
        return this.#space(first, Number(second)) ?? 'OK "There is room."';
      case 'CHECKSCRIPT':
        return this.#sound(first) ?? 'OK "The script is valid."';
      case 'PUTSCRIPT':
        if (!isName(first)) return 'NO "The name of the script is not allowed."';
        return this.#space(first, Buffer.byteLength(second)) ?? this.#sound(second) ?? this.#keep(first, second);
      case 'SETACTIVE':
        if (first !== '' && !scripts.has(first)) return 'NO (NONEXISTENT) "There is no such script."';
        this.server.active = first === '' ? null : first;
        return 'OK "The script is active."';
      case 'RENAMESCRIPT': {
        const script = scripts.get(first);
        if (script === undefined) return 'NO (NONEXISTENT) "There is no such script."';
        if (scripts.has(second)) return 'NO (ALREADYEXISTS) "A script of that name already exists."';
        scripts.delete(first);
        scripts.set(second, script);
        if (this.server.active === first) this.server.active = second;
        return 'OK "Renamed."';
      }
      case 'DELETESCRIPT':
        if (!scripts.has(first)) return 'NO (NONEXISTENT) "There is no such script."';
        if (this.server.active === first) return 'NO (ACTIVE) "The script is active."';
        scripts.delete(first);
        return 'OK "Deleted."';
      default:
        return `NO ${text(`${command} is not supported.`)}`;
    }
  }

  #keep(name: string, script: string): string {
    this.server.scripts.set(name, script);
    return 'OK "Stored."';
  }

  /** Null if there is room. */
  #space(name: string, octets: number): string | null {
    const { quota } = this.server.settings;
    const { scripts } = this.server;
    if (octets > quota.octets) return 'NO (QUOTA/MAXSIZE) "The script is too large."';
    if (!scripts.has(name) && scripts.size >= quota.scripts)
      return 'NO (QUOTA/MAXSCRIPTS) "There are too many scripts."';
    return null;
  }

  /** Null if the script is valid, else all faults, one a line. */
  #sound(script: string): string | null {
    const { script: read, diagnostics } = parse(script);
    const required = [...script.matchAll(/require\s+(\[[^\]]*\]|"[^"]*")/g)].flatMap(([, list = '']) =>
      [...list.matchAll(/"([^"]*)"/g)].map(([, name = '']) => name),
    );
    const unknown = required.filter((name) => !this.server.settings.sieve.includes(name));
    const faults = [
      ...listing('', script, [...diagnostics, ...check(read)]).map((line) => line.replace(/^:/, 'line ')),
      ...unknown.map((name) => `line 1: ${name} is not supported.`),
    ];
    return faults.length === 0 ? null : `NO ${text(faults.join('\r\n'))}`;
  }

  #capabilities(): void {
    const { sieve, sasl, security } = this.server.settings;
    this.#say('"IMPLEMENTATION" "built-in demo server"');
    this.#say(`"SIEVE" ${text(sieve.join(' '))}`);
    this.#say(`"SASL" ${text(this.#secured ? sasl.join(' ') : '')}`);
    if (security === 'starttls' && !this.#secured) this.#say('"STARTTLS"');
    this.#say('"MAXREDIRECTS" "5"');
    this.#say('"VERSION" "1.0"');
    this.#say('OK "Ready."');
  }

  #authenticate(way: string, response: string): void {
    const { user, password, sasl } = this.server.settings;
    const said = Buffer.from(response, 'base64').toString('utf8');
    if (this.#known || !this.#secured) this.#say('NO "Signing in is not possible now."');
    else if (!sasl.includes(way)) this.#say('NO "This way of signing in is not supported."');
    else if (way === 'PLAIN') this.#welcome(said === `\0${user}\0${password}`);
    else this.#challenge(said.replace(/^n,,/, ''));
  }

  #challenge(first: string): void {
    const nonce = `${attributesOf(first).r ?? ''}${randomBytes(12).toString('hex')}`;
    const salt = randomBytes(12);
    const challenge = `r=${nonce},s=${salt.toString('base64')},i=4096`;
    this.#scram = { first, challenge, nonce, salt };
    this.#say(text(Buffer.from(challenge).toString('base64')));
  }

  #welcome(isKnown: boolean, code = ''): void {
    this.#known = isKnown;
    this.#say(isKnown ? `OK${code} "Welcome."` : 'NO "User or password is wrong."');
  }

  #proceed(line: readonly Word[]): void {
    const word = line[0]?.kind === 'string' ? Buffer.from(line[0].value, 'base64').toString('utf8') : '';
    const exchange = this.#scram;
    this.#scram = null;
    if (!exchange) return;
    const { user, password } = this.server.settings;
    const { proof, signature } = proofOf(password, exchange.salt, 4096, exchange);
    const given = Buffer.from(attributesOf(word).p ?? '', 'base64');
    const named = attributesOf(exchange.first).n === user;
    const same = given.length === proof.length && timingSafeEqual(given, proof);
    const final = Buffer.from(`v=${signature.toString('base64')}`).toString('base64');
    this.#welcome(named && same, ` (SASL ${text(final)})`);
  }
}

/** Names contain no control characters (RFC 5804 section 1.6). */
// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const isName = (name: string): boolean => name !== '' && !/[\u0000-\u001f\u007f-\u009f\u2028\u2029]/.test(name);

const text = (words: string): string => written(words, 'server').toString('utf8');
