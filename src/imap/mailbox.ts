import { connect as connectPlain, type Socket } from 'node:net';
import { connect as connectTls, type TLSSocket } from 'node:tls';
import type { FetchMessageObject, ImapFlow, ImapFlowOptions, ListResponse } from 'imapflow';
import {
  CertificateFault,
  ConnectionFault,
  checkedLater,
  maybeDistrusted,
  reasonOf,
  refuseUnencrypted,
  type ServerAddress,
} from '../net/line';

/** Sign-in details for one connection. */
export interface ImapLogin {
  readonly user: string;
  readonly password: string;
}

/** A folder that messages can be in. */
export interface ImapFolder {
  /** Its names from the outermost folder inwards, as text. */
  readonly names: readonly string[];
  /** As the server lists it, as text. */
  readonly path: string;
  /** What the server says it is for (RFC 6154 section 2), such as `\Sent`; null if it does not say. */
  readonly use: string | null;
  readonly messages: number;
  /** Octets of all messages; null if the server does not tell (RFC 8438). */
  readonly octets: number | null;
}

/** Messages of a folder keep their UIDs as long as its UIDVALIDITY stays the same (RFC 9051 section 2.3.1.1). */
export interface OpenFolder {
  readonly validity: string;
  readonly messages: number;
}

export interface ImapFlags {
  readonly uid: number;
  /** In lower case. */
  readonly flags: readonly string[];
}

export interface ImapMessage extends ImapFlags {
  readonly raw: Uint8Array;
  /** When the server received it, in milliseconds since 1970; null if it does not say. */
  readonly received: number | null;
}

/** Limits on what a server can use of this machine. */
export interface ImapLimits {
  /** Milliseconds to wait for the next octets. */
  readonly idle: number;
  /** Milliseconds for one answer, or one message of it. */
  readonly answer: number;
  /** Octets of one message. */
  readonly message: number;
  /** Folders in a list. */
  readonly folders: number;
}

export const IMAP_LIMITS: ImapLimits = {
  idle: 60_000,
  answer: 600_000,
  message: 256 * 1024 * 1024,
  folders: 5000,
};

/** Octets of a line without literals: the UIDs of a million messages fit. */
const LINE = 16 * 1024 * 1024;
/** UIDs in one command. */
const AT_ONCE = 500;
/** The largest UID (RFC 9051 section 9, "nz-number"). */
const LARGEST = 2 ** 32 - 1;

/**
 * The mail of a user on a server (RFC 9051, RFC 3501), read without changing anything there: folders are opened with EXAMINE,
 * messages are fetched with BODY.PEEK.
 */
export class ImapMail {
  /** What ended the connection; a command that waits learns only that it ended. */
  #end: unknown = null;

  private constructor(
    readonly client: ImapFlow,
    readonly address: ServerAddress,
    readonly limits: ImapLimits,
  ) {
    client.on('error', (error) => {
      this.#end ??= error;
    });
  }

  /** Connects, starts TLS and signs in. Throws a `CertificateFault` or `ConnectionFault`. */
  static async connect(
    address: ServerAddress,
    { user, password }: ImapLogin,
    given: Partial<ImapLimits> = {},
  ): Promise<ImapMail> {
    refuseUnencrypted(address);
    const limits = { ...IMAP_LIMITS, ...given };
    // A command that connects nowhere would load it for a tenth of a second.
    const { ImapFlow: Client } = await import('imapflow');
    const client = new Client({ ...settingsFor(address, limits), auth: { user, pass: password } });
    const mail = new ImapMail(client, address, limits);
    try {
      await mail.#asked(() => client.connect());
    } catch (error) {
      client.close();
      throw error;
    }
    return mail;
  }

  /** The folders that can hold messages, in the order of the server. */
  async folders(): Promise<ImapFolder[]> {
    const listed = await this.#asked(() => this.client.list());
    const open = listed.filter(({ flags }) => !flags.has('\\Noselect') && !flags.has('\\NonExistent'));
    if (open.length > this.limits.folders) throw new ConnectionFault(`The server lists ${open.length} folders.`);
    const folders: ImapFolder[] = [];
    for (const one of open) {
      const { messages = 0, size } = await this.#asked(() =>
        this.client.status(one.path, { messages: true, size: true }),
      );
      folders.push({ names: namesOf(one), path: one.path, use: purposeOf(one), messages, octets: size ?? null });
    }
    return folders;
  }

  /** Opens a folder for reading. */
  async open(path: string): Promise<OpenFolder> {
    const { uidValidity, exists } = await this.#asked(() => this.client.mailboxOpen(path, { readOnly: true }));
    return { validity: String(uidValidity), messages: exists };
  }

  /** The UIDs in the open folder, ascending; only of messages that arrived on a day or later, if one is given. */
  async uids(since: Date | null = null): Promise<number[]> {
    const query = since ? { since } : { all: true };
    const found = await this.#asked(() => this.client.search(query, { uid: true }));
    const valid = (found || []).filter((uid) => Number.isInteger(uid) && uid > 0 && uid <= LARGEST);
    return [...new Set(valid)].sort((a, b) => a - b);
  }

  /** How many octets these messages of the open folder have. */
  async octets(uids: readonly number[]): Promise<number> {
    let sum = 0;
    for await (const { size } of this.#sizes(uids)) sum += size;
    return sum;
  }

  #sizes(uids: readonly number[]): AsyncGenerator<{ readonly uid: number; readonly size: number }> {
    return this.#fetched(uids, { size: true }, ({ uid, size = 0 }) => ({ uid, size }));
  }

  /** The flags of messages in the open folder, of those that are still there. */
  async *flags(uids: readonly number[]): AsyncGenerator<ImapFlags> {
    yield* this.#fetched(uids, { flags: true }, flagsOf);
  }

  /**
   * Messages of the open folder, octet for octet; those that vanished meanwhile are left out, and so are those that are too
   * large, for which `tooLarge` is called.
   */
  async *messages(uids: readonly number[], tooLarge: (uid: number) => void = () => {}): AsyncGenerator<ImapMessage> {
    const query = { flags: true, internalDate: true, source: true };
    const wanted: number[] = [];
    for await (const { uid, size } of this.#sizes(uids)) {
      if (size <= this.limits.message) wanted.push(uid);
      else tooLarge(uid);
    }
    yield* this.#fetched(wanted, query, (one) => {
      const { source, internalDate } = one;
      if (!source) throw new ConnectionFault(`The server sent no text for message ${one.uid}.`);
      const received = internalDate === undefined ? Number.NaN : new Date(internalDate).getTime();
      return { ...flagsOf(one), raw: source, received: Number.isNaN(received) ? null : received };
    });
  }

  /** Ends the connection in the middle of an answer. */
  drop(): void {
    this.client.close();
  }

  async close(): Promise<void> {
    // A server that does not answer is left all the same.
    await this.client.logout().catch(() => {});
    this.client.close();
  }

  async *#fetched<T>(
    uids: readonly number[],
    query: Parameters<ImapFlow['fetch']>[1],
    read: (one: FetchMessageObject) => T,
  ): AsyncGenerator<T> {
    for (let at = 0; at < uids.length; at += AT_ONCE) {
      const wanted = new Set(uids.slice(at, at + AT_ONCE));
      const answers = this.client.fetch(rangeOf([...wanted]), { ...query, uid: true }, { uid: true });
      for (;;) {
        const { done, value } = await this.#asked(() => answers.next());
        if (done || !value) break;
        // What was not asked for, or was sent before, is a change of flags at the best.
        if (wanted.delete(value.uid)) yield read(value);
      }
    }
  }

  async #asked<T>(work: () => Promise<T>): Promise<Exclude<T, false>> {
    const clock = setTimeout(() => {
      const { host, port } = this.address;
      this.#end ??= new ConnectionFault(`${host} does not answer on port ${port}.`);
      this.client.close();
    }, this.limits.answer);
    try {
      const answer = await work();
      if (answer === false) throw new ConnectionFault('The server did not do what it was asked.');
      return answer as Exclude<T, false>;
    } catch (error) {
      throw faultOf(this.#end ?? error, this.address);
    } finally {
      clearTimeout(clock);
    }
  }
}

function settingsFor(address: ServerAddress, { idle, message }: ImapLimits): ImapFlowOptions {
  const { host, port, security } = address;
  return {
    host,
    port,
    secure: security === 'tls',
    // Never without TLS where it is asked for, whatever the server says.
    ...(security === 'tls' ? {} : { doSTARTTLS: security === 'starttls' }),
    transport: {
      connect: ({ secure }, ready) => (secure ? overTls(address, null, ready) : unencrypted(address, ready)),
      upgrade: (socket, _settings, ready) => overTls(address, socket as Socket, ready),
    },
    logger: false,
    clientInfo: { name: 'Ysomeris' },
    disableAutoIdle: true,
    disableCompression: true,
    disableBinary: true,
    connectionTimeout: idle,
    greetingTimeout: idle,
    socketTimeout: idle,
    maxLineLength: LINE,
    maxLiteralSize: message,
    maxResponseSize: message + LINE,
  };
}

function unencrypted({ host, port }: ServerAddress, ready: () => void): Socket {
  const socket = connectPlain({ host, port, noDelay: true });
  socket.once('connect', ready);
  return socket;
}

/** Nothing is sent over TLS before the certificate is trusted. */
function overTls(address: ServerAddress, socket: Socket | null, ready: () => void): TLSSocket {
  const { port } = address;
  const tls = connectTls({ ...(socket ? { socket } : { port, noDelay: true }), ...checkedLater(address) });
  tls.once('secureConnect', () => {
    const fault = maybeDistrusted(tls, address);
    if (fault) tls.destroy(fault);
    else ready();
  });
  return tls;
}

/** Ranges of UIDs (RFC 9051 section 9, "sequence-set"), ascending. */
function rangeOf(uids: readonly number[]): string {
  const ranges: [number, number][] = [];
  for (const uid of uids) {
    const last = ranges.at(-1);
    if (last && last[1] === uid - 1) last[1] = uid;
    else ranges.push([uid, uid]);
  }
  return ranges.map(([from, to]) => (from === to ? String(from) : `${from}:${to}`)).join();
}

const namesOf = ({ path, delimiter }: ListResponse): string[] => (delimiter ? path.split(delimiter) : [path]);

/** Whether a folder only shows messages of others (RFC 6154 section 2). */
export const isView = ({ use }: Pick<ImapFolder, 'use'>): boolean => use === '\\All' || use === '\\Flagged';

/** Only what the server says: a name may mean anything. */
const purposeOf = ({ specialUse, specialUseSource }: ListResponse): string | null =>
  specialUseSource === 'extension' ? (specialUse ?? null) : null;

function flagsOf({ uid, flags }: FetchMessageObject): ImapFlags {
  // Whether a session saw a message first is no property of it (RFC 3501 section 2.3.2).
  const own = [...(flags ?? [])].map((flag) => flag.toLowerCase()).filter((flag) => flag !== '\\recent');
  return { uid, flags: own.sort() };
}

/** In plain words. */
function faultOf(error: unknown, { host, port }: ServerAddress): unknown {
  if (error instanceof CertificateFault || error instanceof ConnectionFault) return error;
  if (!(error instanceof Error)) return error;
  const { code, authenticationFailed, responseText, cause } = error as Error & {
    readonly code?: string;
    readonly authenticationFailed?: boolean;
    readonly responseText?: string;
  };
  if (cause instanceof CertificateFault) return cause;
  if (authenticationFailed) {
    return new ConnectionFault('The server did not accept this user and password.');
  }
  // What a server says may be meant for a terminal.
  if (responseText) return new ConnectionFault(`The server answered: ${responseText.replace(/\p{Cc}+/gu, ' ')}`);
  switch (code) {
    case 'LiteralTooLarge':
    case 'ResponseTooLarge':
      return new ConnectionFault('The server sent a message that is too large to be read.');
    case 'LineTooLarge':
    case 'TooManyTokens':
      return new ConnectionFault('The server sent a line that is too long to be read.');
    case 'CONNECT_TIMEOUT':
    case 'GREETING_TIMEOUT':
    case 'ETIMEOUT':
    case 'UPGRADE_TIMEOUT':
      return new ConnectionFault(`${host} does not answer on port ${port}.`);
    case 'NoConnection':
    case 'EConnectionClosed':
    case 'ClosedAfterConnectTLS':
    case 'ClosedAfterConnectText':
      return new ConnectionFault(`${host} closed the connection on port ${port}.`);
    default:
      return new ConnectionFault(reasonOf(error, host, port));
  }
}
