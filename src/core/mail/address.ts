import { elementAt } from '../text/lookup';
/** One mailbox of an address list (RFC 5322 section 3.4). */
export interface Address {
  /** Display name, or the empty string. Sieve's address test never reads it (RFC 5228 section 5.1). */
  readonly display: string;
  /** Local part with quoting undone: `"bob"@x` and `bob@x` are the same. */
  readonly local: string;
  /** Null if there is none, as in `postmaster` alone. */
  readonly domain: string | null;
}

/** The parts of an address by RFC 5228 section 2.7.4; null if the address lacks the part. */
export function addressPart(address: Address, part: 'all' | 'localpart' | 'domain'): string | null {
  switch (part) {
    case 'all':
      return addressText(address);
    case 'localpart':
      return address.local;
    case 'domain':
      return address.domain;
    default:
      part satisfies never;
      throw new Error(`unknown address part ${part}`);
  }
}

const DOT_ATOM = /^[^\s"(),:;<>@[\\\].]+(\.[^\s"(),:;<>@[\\\].]+)*$/;

/** `local@domain`, with the local part quoted only if necessary. */
export function addressText(address: Address): string {
  const plain = address.local === '' || DOT_ATOM.test(address.local);
  const local = plain ? address.local : `"${address.local.replace(/[\\"]/g, '\\$&')}"`;
  return address.domain === null ? local : `${local}@${address.domain}`;
}

/** Most addresses read from one field; servers accept far fewer recipients (common practice). */
const MOST_ADDRESSES = 20_000;

/**
 * The mailboxes of a header field, including members of groups (RFC 5228 section 5.1), without comments and routes.
 * Text that is not an address is skipped up to the next comma. Never throws. `raw` is unfolded but not decoded, since
 * an encoded display name may contain commas (RFC 2047 section 5).
 */
export function parseAddressList(raw: string): Address[] {
  const scanner = new Scanner(raw);
  const addresses: Address[] = [];
  let inGroup = false;
  while (!scanner.ended() && addresses.length < MOST_ADDRESSES) {
    scanner.skipBlanks();
    if (scanner.take(',')) continue;
    if (inGroup && scanner.take(';')) {
      inGroup = false;
      continue;
    }
    const start = scanner.at;
    const words = scanner.phrase();
    if (scanner.take('<')) {
      const address = angled(scanner, words);
      if (address) addresses.push(address);
      scanner.toSeparator(inGroup);
    } else if (!inGroup && words.length > 0 && scanner.take(':')) inGroup = true;
    else {
      scanner.at = start;
      const address = bare(scanner);
      if (address) addresses.push(address);
      scanner.toSeparator(inGroup);
    }
    if (scanner.at === start) scanner.at++;
  }
  return addresses;
}

/** Whether the text is exactly one address with a domain, as `redirect` requires (RFC 5228 section 2.4.2.3). */
export function maybeSingleAddress(text: string): Address | null {
  const found = parseAddressList(text);
  const only = found.length === 1 ? elementAt(found, 0) : null;
  if (!only?.domain || only.local === '') return null;
  const shown = addressText(only);
  const quotedForm = `"${only.local.replace(/[\\"]/g, '\\$&')}"@${only.domain}`;
  const trimmed = text.trim();
  const inner = trimmed.endsWith('>') ? trimmed.slice(trimmed.lastIndexOf('<') + 1, -1) : trimmed;
  return inner === shown || inner === quotedForm ? only : null;
}

// Ann Lee <@relay.example:ann@mill.example>
//         ^ the route before the colon is obsolete and dropped (RFC 5322 section 4.4)
function angled(scanner: Scanner, words: readonly string[]): Address | null {
  scanner.skipBlanks();
  if (scanner.peek() === '@') {
    while (!scanner.ended() && scanner.peek() !== ':' && scanner.peek() !== '>') scanner.at++;
    scanner.take(':');
  }
  const address = bare(scanner);
  scanner.skipBlanks();
  scanner.take('>');
  return address && { ...address, display: words.join(' ') };
}

function bare(scanner: Scanner): Address | null {
  let local = scanner.word();
  if (local === null) return null;
  scanner.skipBlanks();
  while (scanner.take('.')) {
    scanner.skipBlanks();
    local += `.${scanner.word() ?? ''}`;
    scanner.skipBlanks();
  }
  if (!scanner.take('@')) return isLone(scanner) ? { display: '', local, domain: null } : null;
  scanner.skipBlanks();
  const domain = scanner.domain();
  return domain === null ? null : { display: '', local, domain };
}

/** A local part without a domain counts only if nothing else precedes the next separator. */
function isLone(scanner: Scanner): boolean {
  scanner.skipBlanks();
  return scanner.ended() || ',;>'.includes(scanner.peek());
}

const ATOM = /[^\s"(),:;<>@[\\\].]+/y;

class Scanner {
  at = 0;
  constructor(readonly text: string) {}

  ended(): boolean {
    return this.at >= this.text.length;
  }

  peek(): string {
    return this.text[this.at] ?? '';
  }

  take(character: string): boolean {
    if (this.peek() !== character) return false;
    this.at++;
    return true;
  }

  /** White space and comments, which may be nested (RFC 5322 section 3.2.2). */
  skipBlanks(): void {
    for (;;) {
      while (/\s/.test(this.peek()) && !this.ended()) this.at++;
      if (this.peek() !== '(') return;
      let depth = 0;
      do {
        const character = this.peek();
        if (character === '\\') this.at++;
        else if (character === '(') depth++;
        else if (character === ')') depth--;
        this.at++;
      } while (depth > 0 && !this.ended());
    }
  }

  /** An atom or a quoted string with its quoting undone. */
  word(): string | null {
    this.skipBlanks();
    return this.peek() === '"' ? this.quoted() : this.atom();
  }

  atom(): string | null {
    this.skipBlanks();
    ATOM.lastIndex = this.at;
    const atom = ATOM.exec(this.text)?.[0] ?? null;
    if (atom) this.at += atom.length;
    return atom;
  }

  quoted(): string {
    let value = '';
    this.at++;
    while (!this.ended() && this.peek() !== '"') {
      if (this.peek() === '\\') this.at++;
      value += this.peek();
      this.at++;
    }
    this.at++;
    return value;
  }

  /** A display name; stray dots and @ inside it are common practice (RFC 5322 section 4.1 for the dots). */
  phrase(): string[] {
    const words: string[] = [];
    for (;;) {
      const word = this.word();
      if (word !== null) words.push(word);
      else if (this.peek() === '.' || this.peek() === '@') {
        words.push(this.peek());
        this.at++;
      } else return words;
    }
  }

  /** Atoms or a literal (RFC 5322 section 3.4.1), never a quoted string. */
  domain(): string | null {
    if (this.peek() === '[') {
      const close = this.text.indexOf(']', this.at);
      if (close < 0) return null;
      const literal = this.text.slice(this.at, close + 1);
      this.at = close + 1;
      return literal;
    }
    let domain = this.atom();
    if (domain === null) return null;
    this.skipBlanks();
    while (this.take('.')) {
      const label = this.atom();
      if (label !== null) domain += `.${label}`;
      this.skipBlanks();
    }
    return domain;
  }

  /** Skips to the next comma outside quotes and comments, or to the end of the group. */
  toSeparator(inGroup: boolean): void {
    while (!this.ended()) {
      this.skipBlanks();
      const character = this.peek();
      if (character === ',' || (inGroup && character === ';')) return;
      if (character === '"') this.quoted();
      else this.at++;
    }
  }
}

/** Behind the last @; the whole address where there is none. */
export const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1);

export const domainsOf = (addresses: Iterable<string>): ReadonlySet<string> => new Set(Array.from(addresses, domainOf));
