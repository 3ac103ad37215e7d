import { fileURLToPath } from 'node:url';
import { Dice } from '../demo/random';
import { corpus } from '../src/core/agreement/corpus';
import { readMessage } from '../src/core/mail/message';
import { listIdOf, summaryOf } from '../src/core/mail/summary';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import { elementAt } from '../src/core/text/lookup';
import { columnsOf, destinationsIn, type Trial } from './trial';

/**
 * Users whose mail is real: a part of the public corpus. The rules that they mean follow from that mail, its lists, senders and
 * subjects; the rules that they have are the same with faults.
 */

interface Letter {
  readonly raw: Buffer;
  readonly sender: string;
  readonly domain: string;
  readonly list: string | null;
  readonly words: readonly string[];
}

/** A test by its kind and its only key. */
interface Key {
  readonly by: 'list' | 'sender' | 'domain' | 'word' | 'in from';
  readonly key: string;
}

interface Spec {
  readonly name: string;
  readonly all: readonly Key[];
  readonly unless: readonly Key[];
  readonly action: string;
  readonly stop: boolean;
}

let known: readonly Letter[] | null = null;

function letters(): readonly Letter[] {
  known ??= corpus(fileURLToPath(new URL('../corpus/data', import.meta.url))).map((raw): Letter => {
    const message = readMessage(raw);
    const { fromAddress, subject } = summaryOf(message);
    const sender = fromAddress.toLowerCase();
    const words = subject.toLowerCase().match(/[a-z]{5,}/g) ?? [];
    return {
      raw,
      sender,
      domain: sender.slice(sender.indexOf('@') + 1),
      list: listIdOf(message),
      words: [...new Set(words)],
    };
  });
  return known;
}

const SIZE = 1500;
/** The share of messages that the user's own filing has right. */
const RIGHT = 0.6;

/** One user. Everything follows from the seed. */
export function corpusTrial(seed: number): Trial {
  const dice = new Dice(seed * 6151 + 3);
  const mixed = shuffled(letters(), dice).slice(0, 2 * SIZE);
  const [stored, fresh] = [mixed.slice(0, SIZE), mixed.slice(SIZE)];
  const meant = meantBy(stored, dice);
  const had = withFaults(meant, stored, dice);
  const [intended, faulty] = [meant, had].map((specs) => chainFromSieve(sieveOf(specs)).chain) as [
    Trial['intended'],
    Trial['faulty'],
  ];
  const columns = columnsOf(
    stored.map(({ raw }) => raw),
    [],
  );
  const [right, put] = [destinationsIn(intended, columns), destinationsIn(faulty, columns)];
  const main = (at: number, all: typeof right) => elementAt(all, at).folders[0] ?? 'INBOX';
  return {
    name: `corpus ${seed}`,
    intended,
    faulty,
    me: [],
    stored: stored.map(({ raw }, at) => {
      const chance = dice.next();
      const other = main(dice.between(0, SIZE - 1), right);
      const folder = chance < RIGHT ? main(at, right) : chance < 0.8 ? 'INBOX' : chance < 0.92 ? main(at, put) : other;
      return { raw, folder, flags: dice.chance(0.8) ? ['\\seen'] : [] };
    }),
    fresh: fresh.map(({ raw }) => raw),
  };
}

function shuffled<T>(items: readonly T[], dice: Dice): T[] {
  const rest = [...items];
  for (let at = rest.length - 1; at > 0; at--) {
    const other = dice.between(0, at);
    [rest[at], rest[other]] = [rest[other] as T, rest[at] as T];
  }
  return rest;
}

/** Names with their counts, the most frequent first. */
function counted(names: readonly string[], least: number): string[] {
  const counts = new Map<string, number>();
  for (const name of names) counts.set(name, (counts.get(name) ?? 0) + 1);
  return [...counts]
    .filter(([name, count]) => count >= least && name !== '' && /^[\x20-\x7e]+$/.test(name) && !/["\\]/.test(name))
    .sort(([a, some], [b, more]) => more - some || (a < b ? -1 : 1))
    .map(([name]) => name);
}

const into = (folder: string): string => `fileinto "${folder}"`;

function meantBy(stored: readonly Letter[], dice: Dice): Spec[] {
  const file = (name: string, all: readonly Key[], folder: string, unless: readonly Key[] = []): Spec => {
    return { name, all, unless, action: into(folder), stop: true };
  };
  const lists = counted(
    stored.flatMap(({ list }) => list ?? []),
    5,
  ).slice(0, 14);
  const senders = shuffled(
    counted(
      stored.map(({ sender }) => sender),
      5,
    ).slice(0, 30),
    dice,
  ).slice(0, 12);
  const domains = shuffled(
    counted(
      stored.map(({ domain }) => domain),
      6,
    ).slice(0, 24),
    dice,
  ).slice(0, 8);
  const words = shuffled(
    counted(
      stored.flatMap((one) => one.words),
      9,
    ).slice(0, 40),
    dice,
  ).slice(0, 10);
  const special = lists.flatMap((list, at): Spec[] => {
    const own = counted(
      stored.flatMap((one) => (one.list === list ? one.words : [])),
      4,
    );
    const word = own[dice.between(0, Math.min(5, own.length - 1))];
    if (word === undefined || !dice.chance(0.5)) return [];
    return [
      file(
        `${list} ${word}`,
        [
          { by: 'list', key: list },
          { by: 'word', key: word },
        ],
        `Lists/${at}/${word}`,
      ),
    ];
  });
  const ofSenders = senders.map((sender, at) => file(sender, [{ by: 'sender', key: sender }], `People/${at}`));
  const general = [
    ...lists.map((list, at) => file(list, [{ by: 'list', key: list }], `Lists/${at}`)),
    ...domains.map((domain, at) => file(domain, [{ by: 'domain', key: domain }], `Senders/${at}`)),
  ];
  const about = words.slice(0, 6).map((word) => {
    const spared: Key = dice.chance(0.5)
      ? { by: 'domain', key: dice.pick(domains) }
      : { by: 'list', key: dice.pick(lists) };
    return file(`about ${word}`, [{ by: 'word', key: word }], `About/${word}`, dice.chance(0.7) ? [spared] : []);
  });
  const marks = words.slice(6).map((word): Spec => {
    return {
      name: `mark ${word}`,
      all: [{ by: 'word', key: word }],
      unless: [],
      action: 'addflag "$Marked"',
      stop: false,
    };
  });
  const early = dice.between(0, ofSenders.length);
  return [
    ...marks,
    ...special,
    ...ofSenders.slice(0, early),
    ...shuffled(general, dice),
    ...ofSenders.slice(early),
    ...about,
  ];
}

type Fault = (specs: Spec[], stored: readonly Letter[], dice: Dice) => void;

/** Changes one rule that fits. */
function change(specs: Spec[], dice: Dice, make: (spec: Spec) => Partial<Spec> | null): void {
  const fitting = specs.flatMap((spec, at) => {
    const made = make(spec);
    return made ? [{ at, made: { ...spec, ...made } }] : [];
  });
  if (fitting.length === 0) return;
  const { at, made } = dice.pick(fitting);
  specs[at] = made;
}

function move(specs: Spec[], from: number, to: number): void {
  const [moved] = specs.splice(from, 1);
  if (moved) specs.splice(to, 0, moved);
}

/** Someone at a domain, or on a list. */
const oneOf = ({ by, key }: Key, stored: readonly Letter[]): string | null =>
  stored.find(({ domain, list, sender }) => sender !== '' && (by === 'domain' ? domain === key : list === key))
    ?.sender ?? null;

const FAULTS: Readonly<Record<string, Fault>> = {
  'special behind general': (specs, _, dice) => {
    const at = specs.findIndex(({ all }) => all.length > 1);
    if (at >= 0) move(specs, at, dice.between(specs.length - 4, specs.length - 1));
  },
  'general first': (specs, _, dice) => {
    const at = specs.findIndex(({ name }) => name.startsWith('about '));
    if (at >= 0) move(specs, at, dice.between(0, 3));
  },
  'stop lost': (specs, _, dice) => change(specs, dice, ({ stop }) => (stop ? { stop: false } : null)),
  'stop too many': (specs, _, dice) => change(specs, dice, ({ stop }) => (stop ? null : { stop: true })),
  'exception lost': (specs, _, dice) =>
    change(specs, dice, ({ unless }) => (unless.length > 0 ? { unless: [] } : null)),
  'exception narrow': (specs, stored, dice) =>
    change(specs, dice, ({ unless: [only] }) => {
      const sender = only && oneOf(only, stored);
      return sender ? { unless: [{ by: 'sender', key: sender }] } : null;
    }),
  'key broad': (specs, _, dice) =>
    change(specs, dice, ({ all: [first, ...others] }) => {
      if (first?.by === 'word' && first.key.length > 5)
        return { all: [{ by: 'word', key: first.key.slice(0, 4) }, ...others] };
      const local = first?.by === 'sender' ? first.key.split('@')[0] : undefined;
      return local ? { all: [{ by: 'in from', key: local.slice(0, 5) }, ...others] } : null;
    }),
  'key narrow': (specs, stored, dice) =>
    change(specs, dice, ({ all: [first, ...others] }) => {
      const sender = first && (first.by === 'domain' || first.by === 'list') ? oneOf(first, stored) : null;
      return sender ? { all: [{ by: 'sender', key: sender }, ...others] } : null;
    }),
  'other folder': (specs, _, dice) => {
    const other = dice.pick(specs.filter(({ stop }) => stop)).action;
    change(specs, dice, ({ action, stop }) => (stop && action !== other ? { action: other } : null));
  },
  'misspelt folder': (specs, _, dice) =>
    change(specs, dice, ({ action, stop }) => (stop ? { action: action.replace(/.(?="$)/, 'x') } : null)),
  twice: (specs, _, dice) => {
    const at = dice.between(0, specs.length - 1);
    const copy = elementAt(specs, at);
    specs.splice(dice.between(at + 1, specs.length), 0, { ...copy, name: `${copy.name} (2)` });
  },
};

function withFaults(meant: readonly Spec[], stored: readonly Letter[], dice: Dice): Spec[] {
  const specs = [...meant];
  const kinds = shuffled(Object.values(FAULTS), dice).slice(0, dice.between(7, 10));
  for (const make of kinds) make(specs, stored, dice);
  return specs;
}

function sieveOf(specs: readonly Spec[]): string {
  const lines = specs.flatMap(({ name, all, unless, action, stop }) => {
    const tests = [...all.map(testOf), ...unless.map((key) => `not ${testOf(key)}`)];
    return [`# ${name}`, `if allof (${tests.join(', ')}) { ${action}; ${stop ? 'stop; ' : ''}}`];
  });
  return ['require ["fileinto", "imap4flags"];', ...lines, ''].join('\n');
}

function testOf({ by, key }: Key): string {
  switch (by) {
    case 'list':
      return `header :contains "list-id" "${key}"`;
    case 'sender':
      return `address :is "from" "${key}"`;
    case 'domain':
      return `address :domain :is "from" "${key}"`;
    case 'word':
      return `header :contains "subject" "${key}"`;
    case 'in from':
      return `header :contains "from" "${key}"`;
    default:
      by satisfies never;
      throw new Error('unknown kind of test');
  }
}
