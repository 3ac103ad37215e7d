import { convert } from 'html-to-text';
import { simpleParser } from 'mailparser';
import PostalMime, { type Address as TheirAddress } from 'postal-mime';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { addressText } from '../mail/address';
import { parseDate } from '../mail/date';
import { htmlToText } from '../mail/html';
import { readMbox, splitMbox, writeMboxEntry } from '../mail/mbox';
import { addressesOf, envelopeOf, fieldsNamed, type MailMessage, partsOf, readMessage } from '../mail/message';
import { decodedText, walkParts } from '../mail/parts';
import { readingOf } from '../mail/reading';
import { chainFromSieve } from '../rules/from-sieve';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { ARRIVAL, worldFor } from '../sieve/interpret/world';
import { quote } from '../sieve/quote';
import { elementAt } from '../text/lookup';
import { browserText } from './browser-text';
import { CORPUS_SIZE, corpus, hasOctets, headerText, isPlainAddressList, rawOf, seeded } from './corpus';

/**
 * Every message of a public corpus of real mail, compared with general libraries and on both engines. Each difference
 * is explained, and the number of each kind is fixed.
 */

const MAIL = corpus();
const READ: readonly MailMessage[] = MAIL.map(readMessage);

/** Counts differences by explanation; an unexplained one fails. */
class Differences {
  readonly #counts: Record<string, number> = {};
  readonly unexplained: number[] = [];

  note(message: number, explanations: Readonly<Record<string, boolean>>): void {
    const why = Object.entries(explanations).find(([, applies]) => applies)?.[0];
    if (why === undefined) this.unexplained.push(message);
    else this.#counts[why] = (this.#counts[why] ?? 0) + 1;
  }

  get counts() {
    return this.#counts;
  }
}

const textOf = (message: MailMessage, name: string): string | null => fieldsNamed(message, name)[0]?.value ?? null;

describe('the corpus', () => {
  test('is whole', () => {
    expect(MAIL).toHaveLength(CORPUS_SIZE);
    expect(new Set(MAIL.map((raw) => raw.toString('latin1'))).size).toBeGreaterThan(5900);
  });

  test('each message comes out of an mbox octet for octet, as a stream too', async () => {
    const file = Buffer.concat(
      MAIL.map((raw) => writeMboxEntry({ fromLine: 'From x@y.example Thu Jan  1 10:00:00 2026', raw })),
    );
    // If a message did not end its last line, the writer did (RFC 4155).
    const ended = MAIL.map((raw) => (raw.at(-1) === 10 ? raw : Buffer.concat([raw, Buffer.from('\n')])));
    let index = 0;
    for (const { raw } of splitMbox(file)) expect(Buffer.compare(raw, elementAt(ended, index++))).toBe(0);
    expect(index).toBe(CORPUS_SIZE);
    async function* pieces() {
      for (let at = 0; at < file.length; at += 65_521) yield file.subarray(at, at + 65_521);
    }
    index = 0;
    for await (const some of readMbox(pieces())) {
      for (const { raw } of some) expect(Buffer.compare(raw, elementAt(ended, index++))).toBe(0);
    }
    expect(index).toBe(CORPUS_SIZE);
  });
});

describe('held against general libraries', () => {
  test('subjects, addresses and dates (postal-mime)', { timeout: 300_000 }, async () => {
    const differences = {
      subject: new Differences(),
      from: new Differences(),
      to: new Differences(),
      cc: new Differences(),
      date: new Differences(),
    };
    for (const [at, raw] of MAIL.entries()) {
      const message = elementAt(READ, at);
      const theirs = await PostalMime.parse(raw);
      if ((textOf(message, 'subject') ?? '') !== (theirs.subject ?? '')) {
        const folded = headerText(raw, 'subject');
        differences.subject.note(at, {
          'octets beyond US-ASCII, which they take for UTF-8': hasOctets(raw, 'subject'),
          'a tab at a fold, which they keep': /\n\t/.test(folded),
          'windows-1252, whose upper controls they lose': /windows-1252|iso-8859-1/i.test(folded),
          'encoded words that touch text, or are malformed': /=\?/.test(folded),
        });
      }
      for (const name of ['from', 'to', 'cc'] as const) {
        const ours = fieldsNamed(message, name).flatMap((field) => addressesOf(field).map(addressText));
        const found = name === 'from' ? (theirs.from ? [theirs.from] : []) : (theirs[name] ?? []);
        const flat = found
          .flatMap((one: TheirAddress) => ('group' in one && one.group ? one.group : [one]))
          .flatMap((one) => ('address' in one && one.address ? [one.address] : []));
        // They return only the first author.
        const mine = name === 'from' ? ours.slice(0, 1) : ours;
        if (mine.join().toLowerCase() === flat.join().toLowerCase()) continue;
        differences[name].note(at, {
          'octets beyond US-ASCII': hasOctets(raw, name),
          'not as RFC 5322 has addresses': !isPlainAddressList(rawOf(message, name)),
        });
      }
      const date = fieldsNamed(message, 'date')[0]?.raw;
      if (date === undefined) continue;
      const time = Date.parse(date.replace(/\([^()]*\)/g, ''));
      if ((parseDate(date)?.time ?? null) === (Number.isNaN(time) ? null : time)) continue;
      differences.date.note(at, {
        'a year before 1900, which RFC 5322 section 3.3 does not have': /\b0\d{3}\b|\b\d{2} 1\d{2} /.test(date),
        'a zone that RFC 5322 does not have': !/([+-]\d{4}|UT|GMT|[ECMP][SD]T)$/.test(
          date.replace(/\([^()]*\)/g, '').trim(),
        ),
        'not as RFC 5322 has dates': !/^(\w{3}, *)?\d{1,2} \w{3} \d{2,4} \d{2}:\d{2}(:\d{2})? /.test(date),
      });
    }
    for (const found of Object.values(differences)) expect(found.unexplained).toEqual([]);
    expect(
      Object.fromEntries(Object.entries(differences).map(([name, { counts }]) => [name, counts])),
    ).toMatchInlineSnapshot(`
      {
        "cc": {
          "not as RFC 5322 has addresses": 1,
        },
        "date": {
          "a year before 1900, which RFC 5322 section 3.3 does not have": 76,
          "a zone that RFC 5322 does not have": 29,
        },
        "from": {
          "not as RFC 5322 has addresses": 2,
          "octets beyond US-ASCII": 5,
        },
        "subject": {
          "a tab at a fold, which they keep": 4,
          "encoded words that touch text, or are malformed": 3,
          "octets beyond US-ASCII, which they take for UTF-8": 35,
          "windows-1252, whose upper controls they lose": 1,
        },
        "to": {
          "not as RFC 5322 has addresses": 57,
          "octets beyond US-ASCII": 1,
        },
      }
    `);
  });

  const bare = (text: string): string => text.replace(/\s+/g, '');
  const HTML = READ.flatMap((message, at) =>
    [...walkParts(partsOf(message))].flatMap((part) =>
      part.type === 'text/html' ? [{ at, html: decodedText(part) }] : [],
    ),
  );

  test('the words of HTML, as a browser builds its tree (parse5)', () => {
    const differences = new Differences();
    for (const { at, html } of HTML) {
      const [ours, theirs] = [bare(htmlToText(html)), bare(browserText(html))];
      if (ours === theirs) continue;
      const sorted = (text: string) => Array.from(text).sort().join('');
      differences.note(at, {
        'words of a table in no cell, which move before it': sorted(ours) === sorted(theirs),
        'a frameset, which has no text of its own': /<frameset/i.test(html),
        'an octet of zero': html.includes('\0') || /&#0*;/.test(html),
      });
    }
    expect(HTML.length).toBeGreaterThan(1000);
    expect(differences.unexplained).toEqual([]);
    expect(differences.counts).toMatchInlineSnapshot(`
      {
        "a frameset, which has no text of its own": 1,
        "an octet of zero": 1,
        "words of a table in no cell, which move before it": 5,
      }
    `);
  });

  test('the words of HTML, as another reader has them (html-to-text)', { timeout: 300_000 }, () => {
    const plain = { format: 'block' } as const;
    const selectors = [
      { selector: 'a', options: { ignoreHref: true } },
      { selector: 'img', format: 'skip' },
      { selector: 'hr', format: 'skip' },
      ...['h1', 'h2', 'h3', 'h4', 'h5', 'h6'].map((selector) => ({ selector, options: { uppercase: false } })),
      ...['ul', 'ol', 'li', 'blockquote', 'table', 'pre'].map((selector) => ({ selector, ...plain })),
    ];
    const differences = new Differences();
    for (const { at, html } of HTML) {
      // It reads only the first body, and includes titles.
      const whole = html
        .replace(/<title[\s\S]*?(<\/title>|$)/gi, '')
        .replace(/<\/?(html|head|body)\b(?:"[^"]*"|'[^']*'|[^>"'])*>/gi, ' ');
      const theirs = bare(convert(whole, { wordwrap: false, selectors, limits: { maxInputLength: 1 << 28 } }));
      const ours = bare(htmlToText(html));
      if (ours === theirs) continue;
      differences.note(at, {
        'what browsers show otherwise':
          /<(noscript|iframe|noembed|noframes|template|select|option|textarea|xmp|frameset)/i.test(html),
        'white space that it keeps or takes away':
          Array.from(ours).filter((one) => !theirs.includes(one)).length === 0 &&
          Math.abs(ours.length - theirs.length) < 4,
      });
    }
    expect(differences.unexplained).toEqual([]);
    expect(differences.counts).toMatchInlineSnapshot(`
      {
        "what browsers show otherwise": 1,
      }
    `);
  });

  test('attachments by name, type and size (mailparser)', { timeout: 600_000 }, async () => {
    const differences = new Differences();
    let attached = 0;
    for (const [at, raw] of MAIL.entries()) {
      const { attachments } = readingOf(elementAt(READ, at));
      // Most have none, and reading them again is slow.
      if (attachments.length === 0 && at % 10 > 0) continue;
      const theirs = (await simpleParser(raw, { skipImageLinks: true, skipHtmlToText: true, skipTextToHtml: true }))
        .attachments;
      const ours = attachments.map(({ name, type, octets }) => `${type} ${name ?? ''} ${octets}`).sort();
      attached += ours.length;
      const found = theirs.map(({ contentType, filename, size }) => `${contentType} ${filename ?? ''} ${size}`).sort();
      if (ours.join() === found.join()) continue;
      const parts = [...walkParts(partsOf(elementAt(READ, at)))];
      differences.note(at, {
        'a type that they guess from the name of the file': attachments.some(
          ({ type }) => type === 'application/octet-stream',
        ),
        'parts of a message within, which are theirs': parts.some(({ type }) => type.startsWith('message/')),
        'a text with a name, or without one that is attached': parts.some(
          ({ type, fields }) =>
            type.startsWith('text/') &&
            fields.some(
              ({ name, value }) => /^content-(type|disposition)$/i.test(name) && /name|attachment/i.test(value),
            ),
        ),
      });
    }
    expect(attached).toBeGreaterThan(150);
    expect(differences.unexplained).toEqual([]);
    expect(differences.counts).toMatchInlineSnapshot(`
      {
        "a text with a name, or without one that is attached": 3,
        "a type that they guess from the name of the file": 12,
        "parts of a message within, which are theirs": 4,
      }
    `);
  });
});

/** Tests of every kind with keys from the mail itself. */
function drawnTests(count: number): string[] {
  const next = seeded(5228);
  const pick = <T>(all: readonly T[]): T => elementAt(all, next(all.length));
  const piece = (text: string): string => {
    const characters = Array.from(text);
    const start = next(Math.max(1, characters.length - 3));
    return characters.slice(start, start + 2 + next(8)).join('');
  };
  const pattern = (text: string): string => `*${piece(text).replace(/[*?\\]/g, '\\$&')}*`;
  const by = () => pick(['', '', '', ':comparator "i;octet" ', ':comparator "i;unicode-casemap" ']);
  const drawn: (() => string | null)[] = [
    () => {
      const field = pick(pick(READ).fields);
      const [how, key] = pick([
        [':contains', piece(field.value)],
        [':is', field.value],
        [':matches', pattern(field.value)],
      ] as const);
      return `header ${by()}${how} ${quote(field.name)} ${quote(key)}`;
    },
    () => {
      const name = pick(['from', 'to', 'cc', 'reply-to', 'sender', 'return-path']);
      const address = pick(READ.flatMap((message) => fieldsNamed(message, name).flatMap(addressesOf)).slice(0, 3000));
      const part = pick([':all', ':localpart', ':domain']);
      const text = part === ':all' ? addressText(address) : part === ':domain' ? (address.domain ?? '') : address.local;
      const [how, key] = pick([
        [':contains', piece(text)],
        [':is', text],
        [':matches', pattern(text)],
      ] as const);
      return `address ${by()}${part} ${how} ${quote(name)} ${quote(key)}`;
    },
    () => {
      const text = pick(
        readingOf(pick(READ))
          .texts.map((one) => one.text)
          .concat(''),
      );
      const how = pick([':contains', ':contains', ':matches']);
      return text === '' ? null : `body :text ${how} ${quote(how === ':matches' ? pattern(text) : piece(text))}`;
    },
    () =>
      `body ${pick([':raw', ':content "text"', ':content "text/html"'])} :contains ${quote(piece(pick(MAIL).toString('latin1').slice(-2000)).replace(/[^ -~]/g, ''))}`,
    () => `exists ${quote(pick(pick(READ).fields).name)}`,
    () => `size ${pick([':over', ':under'])} ${pick(READ).size}`,
    () =>
      `envelope ${pick([':all', ':domain'])} :contains "from" ${quote(piece(envelopeOf(pick(READ), null).from ?? ''))}`,
    () =>
      `date ${pick([':originalzone ', ':zone "+0200" ', ''])}:value ${pick(['"ge"', '"lt"'])} "date" ${pick(['"date" "2002-08-15"', '"hour" "12"', '"weekday" "3"'])}`,
    () => `currentdate :value "ge" "date" "2002-0${1 + next(9)}-1${next(10)}"`,
    () =>
      `header :count ${pick(['"ge"', '"eq"'])} :comparator "i;ascii-numeric" ${quote(pick(['received', 'to', 'x-status']))} "${next(8)}"`,
    () => `header :regex "subject" ${pick(['"^re: "', '"[0-9]+"', '"(free|money).*!"', '"[[:upper:]]{4}"'])}`,
    () =>
      `header ${pick([':index 1', ':last :index 2'])} :contains "received" ${quote(pick(['esmtp', 'localhost', 'qmail', 'smtp']))}`,
    () =>
      `header :mime :anychild ${pick([':subtype :is "content-type" "html"', ':param "charset" :contains "content-type" "8859"', ':type :is "content-type" "text"'])}`,
  ];
  const tests: string[] = [];
  while (tests.length < count) {
    const test_ = pick(drawn)();
    // biome-ignore lint/suspicious/noControlCharactersInRegex: NUL cannot stand in a script
    if (test_ !== null && !/[\x00]/.test(test_)) tests.push(test_);
  }
  return tests;
}

test('both engines agree on 500 tests drawn from it, on all messages', { timeout: 600_000 }, () => {
  const tests = drawnTests(500);
  const needed = [
    'imap4flags',
    'body',
    'envelope',
    'date',
    'relational',
    'comparator-i;ascii-numeric',
    'comparator-i;unicode-casemap',
    'regex',
    'index',
    'mime',
  ];
  const source = `require [${needed.map(quote).join(', ')}];\n${tests.map((one, at) => `if ${one} { addflag "t${at}"; }`).join('\n')}\n`;
  const { chain, diagnostics, script } = chainFromSieve(source);
  expect(diagnostics).toEqual([]);
  const columns = new MemoryColumns();
  for (const message of READ) columns.add(message, envelopeOf(message, null));
  const flow = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
  const run = interpreter(script);
  const differing = READ.flatMap((message, at) => {
    const byScript = fateKey(run(message, envelopeOf(message, null), { world: worldFor(message, ARRIVAL) }).fate);
    return byScript === fateKey(flow.fates.fateOf(at)) ? [] : [at];
  });
  expect(differing).toEqual([]);
  // The tests really distinguish messages.
  const told = flow.entries.filter(({ fired }) => !fired.isEmpty() && fired.count() < CORPUS_SIZE).length;
  expect(told).toBeGreaterThan(400);
});
