import type { Socket } from 'node:net';
import iconv from 'iconv-lite';
import { type SelfSigned, securedAsServer, selfSigned } from './certificate';
import { CommandReader, type ImapWord, inSet } from './imap-words';
import { Listener } from './listener';

export interface StandInMessage {
  readonly uid: number;
  readonly flags: readonly string[];
  /** When it arrived, in milliseconds since 1970. */
  readonly received: number;
  readonly raw: Uint8Array;
}

export interface StandInFolder {
  readonly name: string;
  /** Such as `\Sent` (RFC 6154 section 2). */
  readonly use: string | null;
  readonly messages: readonly StandInMessage[];
}

export interface ImapStandInSettings {
  readonly user: string;
  readonly password: string;
  readonly security: 'starttls' | 'tls' | 'plain';
  /** The folders at present; asked for at each connection. */
  readonly folders: () => Promise<readonly StandInFolder[]>;
  /** Called when a client that has fetched messages leaves. */
  readonly left: () => void;
}

/** An IMAP server (RFC 9051, as far as reading needs it) for the demo. Nothing that a client does changes a message. */
export class ImapStandIn {
  readonly #listener = new Listener();

  constructor(readonly settings: ImapStandInSettings) {}

  /** Listens on the loopback address; returns the port. */
  async listen(port = 0, given: SelfSigned | null = null): Promise<number> {
    const certificate = given ?? (await selfSigned('localhost', Date.now()));
    return this.#listener.listen(port, (socket) => new Session(this.settings, socket, certificate).begin());
  }

  close(): Promise<void> {
    return this.#listener.close();
  }
}

/** Constant, so that messages keep their UIDs when the server starts again. */
const VALIDITY = 1_000_001;
/** Octets that may wait for a slow client. */
const WAITING = 4 * 1024 * 1024;

/** One connection. */
class Session {
  #secured: boolean;
  #known = false;
  #busy = false;
  #hasFetched = false;
  #folders: readonly StandInFolder[] = [];
  #open: StandInFolder | null = null;
  #reader = new CommandReader(() => this.#say('+ go on'));

  constructor(
    readonly settings: ImapStandInSettings,
    public socket: Socket,
    readonly certificate: SelfSigned,
  ) {
    this.#secured = settings.security === 'plain';
  }

  begin(): void {
    if (this.settings.security === 'tls') this.#secure();
    else this.#listen();
    this.#say(`* OK [CAPABILITY ${this.#capabilities()}] built-in demo server`);
  }

  #secure(): void {
    this.socket = securedAsServer(this.socket, this.certificate);
    this.#secured = true;
    this.#reader = new CommandReader(() => this.#say('+ go on'));
    this.#listen();
  }

  #listen(): void {
    this.socket.on('data', (octets: Buffer) => void this.#work(octets));
  }

  async #work(octets: Buffer): Promise<void> {
    try {
      this.#reader.add(octets);
      if (this.#busy) return;
      this.#busy = true;
      for (let words = this.#reader.next(); words; words = this.#reader.next()) await this.#answer(words);
    } catch (error) {
      this.#say(`* BYE ${error instanceof Error ? error.message : 'The command is not understood.'}`);
      this.socket.end();
    } finally {
      this.#busy = false;
    }
  }

  #say(line: string): void {
    if (this.socket.writable) this.socket.write(`${line}\r\n`, 'latin1');
  }

  #capabilities(): string {
    const more = this.#secured ? 'AUTH=PLAIN' : 'STARTTLS LOGINDISABLED';
    return `IMAP4rev1 SPECIAL-USE STATUS=SIZE NAMESPACE ${more}`;
  }

  /** The tag of a command that waits for the client's response (RFC 9051 section 6.2.2). */
  #signingIn: ImapWord | null = null;

  async #answer(line: readonly ImapWord[]): Promise<void> {
    const [tag = '*', first = '', ...rest] = line;
    if (this.#signingIn !== null) {
      const [, user = '', password = ''] = Buffer.from(atomOf(tag), 'base64').toString('utf8').split('\0');
      this.#say(`${atomOf(this.#signingIn)} ${await this.#signIn(user, password)}`);
      this.#signingIn = null;
      return;
    }
    const name = atomOf(first).toUpperCase();
    const isUid = name === 'UID';
    const command = isUid ? atomOf(rest[0] ?? '').toUpperCase() : name;
    const words = isUid ? rest.slice(1) : rest;
    if (command === 'AUTHENTICATE' && this.#secured) {
      this.#signingIn = tag;
      this.#say('+ ');
      return;
    }
    const answer = await this.#perform(command, words);
    this.#say(`${atomOf(tag)} ${answer}`);
    if (command === 'STARTTLS' && answer.startsWith('OK')) this.#secure();
    if (command === 'LOGOUT') this.socket.end();
  }

  async #perform(command: string, words: readonly ImapWord[]): Promise<string> {
    switch (command) {
      case 'CAPABILITY':
        this.#say(`* CAPABILITY ${this.#capabilities()}`);
        return 'OK these';
      case 'NOOP':
        return 'OK done';
      case 'LOGOUT':
        this.#say('* BYE until later');
        if (this.#hasFetched) this.settings.left();
        return 'OK good-bye';
      case 'STARTTLS':
        return this.#secured ? 'BAD the connection is already encrypted' : 'OK start TLS now';
      case 'LOGIN':
        return this.#signIn(atomOf(words[0] ?? ''), atomOf(words[1] ?? ''));
      default:
        return this.#known ? this.#performKnown(command, words) : 'NO sign in first';
    }
  }

  async #signIn(user: string, password: string): Promise<string> {
    if (!this.#secured) return 'NO [PRIVACYREQUIRED] start TLS first';
    this.#known = user === this.settings.user && password === this.settings.password;
    if (!this.#known) return 'NO [AUTHENTICATIONFAILED] user or password is wrong';
    this.#folders = await this.settings.folders();
    return `OK [CAPABILITY ${this.#capabilities()}] welcome`;
  }

  async #performKnown(command: string, words: readonly ImapWord[]): Promise<string> {
    switch (command) {
      case 'NAMESPACE':
        this.#say('* NAMESPACE (("" "/")) NIL NIL');
        return 'OK these';
      case 'LIST':
      case 'LSUB': {
        // An empty name asks for the separator alone (RFC 9051 section 6.3.9).
        if (words.includes('')) this.#say(`* ${command} (\\Noselect) "/" ""`);
        if (words.length > 1 && words.at(-1) !== '') for (const folder of this.#folders) this.#list(command, folder);
        return 'OK these';
      }
      case 'STATUS': {
        const folder = this.#folder(words[0]);
        if (!folder) return 'NO [NONEXISTENT] there is no such folder';
        this.#say(`* STATUS ${quoted(folder.name)} (${statusOf(folder, words[1])})`);
        return 'OK this';
      }
      case 'SELECT':
      case 'EXAMINE': {
        this.#open = this.#folder(words[0]);
        if (!this.#open) return 'NO [NONEXISTENT] there is no such folder';
        this.#say('* FLAGS (\\Answered \\Flagged \\Deleted \\Seen \\Draft)');
        this.#say('* OK [PERMANENTFLAGS ()] nothing can be changed here');
        this.#say(`* ${this.#open.messages.length} EXISTS`);
        this.#say(`* OK [UIDVALIDITY ${VALIDITY}] as always`);
        this.#say(`* OK [UIDNEXT ${lastUid(this.#open) + 1}] next`);
        return 'OK [READ-ONLY] open';
      }
      case 'CLOSE':
      case 'UNSELECT':
        this.#open = null;
        return 'OK closed';
      case 'SEARCH':
        return this.#search(words);
      case 'FETCH':
        return this.#fetch(words);
      default:
        return 'BAD this demo server only reads';
    }
  }

  #list(command: string, { name, use }: StandInFolder): void {
    this.#say(`* ${command} (\\HasNoChildren${use ? ` ${use}` : ''}) "/" ${quoted(name)}`);
  }

  #folder(word: ImapWord | undefined): StandInFolder | null {
    const name = iconv.decode(Buffer.from(atomOf(word ?? ''), 'latin1'), 'utf7-imap');
    return this.#folders.find((one) => one.name === name || name.toUpperCase() === one.name) ?? null;
  }

  #search(words: readonly ImapWord[]): string {
    if (!this.#open) return 'BAD no folder is open';
    const flat = words.map((word) => atomOf(word).toUpperCase());
    const at = flat.indexOf('SINCE');
    const since = at < 0 ? Number.NEGATIVE_INFINITY : Date.parse(`${flat[at + 1]} UTC`);
    const found = this.#open.messages.filter(({ received }) => received >= since);
    this.#say(`* SEARCH${found.map(({ uid }) => ` ${uid}`).join('')}`);
    return 'OK these';
  }

  async #fetch([set = '', asked = '']: readonly ImapWord[]): Promise<string> {
    const folder = this.#open;
    if (!folder) return 'BAD no folder is open';
    const isIn = inSet(atomOf(set), lastUid(folder));
    const items = (typeof asked === 'string' ? [asked] : asked).map((item) => atomOf(item).toUpperCase());
    for (const [index, message] of folder.messages.entries()) {
      if (!isIn(message.uid)) continue;
      const parts = items.flatMap((item) => partOf(item, message));
      const withText = items.includes('BODY.PEEK[]') ? [`BODY[] {${message.raw.length}}`] : [];
      this.#hasFetched ||= withText.length > 0;
      this.socket.write(`* ${index + 1} FETCH (${[`UID ${message.uid}`, ...parts, ...withText].join(' ')}`, 'latin1');
      if (withText.length > 0) {
        this.socket.write('\r\n');
        this.socket.write(message.raw);
      }
      this.#say(')');
      if (this.socket.writableLength > WAITING) await new Promise((go) => this.socket.once('drain', go));
    }
    return 'OK these';
  }
}

function partOf(item: string, { flags, raw, received }: StandInMessage): string[] {
  if (item === 'FLAGS') return [`FLAGS (${flags.join(' ')})`];
  if (item === 'RFC822.SIZE') return [`RFC822.SIZE ${raw.length}`];
  if (item === 'INTERNALDATE') return [`INTERNALDATE "${internalDate(received)}"`];
  return [];
}

function statusOf(folder: StandInFolder, asked: ImapWord | undefined): string {
  const values: Readonly<Record<string, number>> = {
    MESSAGES: folder.messages.length,
    UIDNEXT: lastUid(folder) + 1,
    UIDVALIDITY: VALIDITY,
    UNSEEN: folder.messages.filter(({ flags }) => !flags.includes('\\Seen')).length,
    SIZE: folder.messages.reduce((sum, { raw }) => sum + raw.length, 0),
  };
  const names = (Array.isArray(asked) ? asked : []).map((item) => atomOf(item).toUpperCase());
  return names.flatMap((name) => (values[name] === undefined ? [] : [`${name} ${values[name]}`])).join(' ');
}

/** RFC 9051 section 9, "date-time". */
function internalDate(time: number): string {
  const [, day = '', month = '', year = '', clock = ''] = new Date(time).toUTCString().split(/[ ,]+/);
  return `${day}-${month}-${year} ${clock} +0000`;
}

const atomOf = (word: ImapWord): string => (typeof word === 'string' ? word : '');
const lastUid = ({ messages }: StandInFolder): number => messages.at(-1)?.uid ?? 0;
/** Folders are named in modified UTF-7 (RFC 3501 section 5.1.3). */
const quoted = (name: string): string =>
  `"${iconv.encode(name, 'utf7-imap').toString('latin1').replace(/["\\]/g, '\\$&')}"`;
