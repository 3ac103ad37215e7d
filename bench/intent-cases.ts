import { Dice } from '../demo/random';

/**
 * Made-up users with the rules that they mean, the mail that they get, and the rules that they have: the same with
 * faults. How well a plan recovers the first from the others is measured on them.
 */
export interface IntentCase {
  readonly name: string;
  /** As Sieve. */
  readonly intended: string;
  readonly faulty: string;
  /** What was done to the intended rules, in words. */
  readonly faults: readonly string[];
  readonly me: string;
  /** Stored mail and fresh mail of the same people; where stored mail lies is decided once its fate is known. */
  readonly stored: readonly CaseMessage[];
  readonly fresh: readonly CaseMessage[];
  /** Where the user has put a stored message, given where it was meant to go and where the faulty rules put it. */
  readonly lyingIn: (index: number, meant: string, put: string) => string;
}

export interface CaseMessage {
  readonly text: string;
  readonly seen: boolean;
  readonly answered: boolean;
}

const ME = 'kit@home.example';

const TOPICS = [
  ['oak', 'Timber', ['beams', 'planks', 'delivery note', 'green oak']],
  ['lime', 'Lime', ['putty', 'kiln', 'hot lime', 'mortar']],
  ['grants', 'Grants', ['second payment', 'report due', 'application', 'panel']],
  ['river', 'River', ['level', 'flood warning', 'gauge', 'forecast']],
  ['school', 'Schools', ['booking', 'class visit', 'coach', 'risk assessment']],
  ['shop', 'Shop', ['order', 'refund', 'stock', 'parcel']],
  ['bank', 'Bank', ['statement', 'payment received', 'card', 'standing order']],
  ['council', 'Council', ['planning', 'lease', 'decision', 'site visit']],
  ['museum', 'Museum', ['talks', 'exhibition', 'loan', 'newsletter']],
  ['choir', 'Choir', ['rehearsal', 'concert', 'notes', 'tenor']],
  ['garden', 'Garden', ['seeds', 'allotment', 'compost', 'open garden']],
  ['walks', 'Walks', ['route', 'newsletter', 'boots', 'map']],
  ['press', 'Press', ['interview', 'photo', 'deadline', 'newsletter']],
  ['tools', 'Tools', ['chisels', 'offer', 'sharpening', 'last days']],
  ['rail', 'Travel', ['ticket', 'delay', 'seat', 'timetable']],
  ['clinic', 'Health', ['appointment', 'results', 'reminder', 'prescription']],
  ['library', 'Library', ['overdue', 'reservation', 'new books', 'reminder']],
  ['energy', 'Bills', ['meter reading', 'invoice', 'tariff', 'statement']],
  ['water', 'Bills', ['invoice', 'burst main', 'meter reading', 'reminder']],
  ['insurance', 'Insurance', ['renewal', 'claim', 'policy', 'invoice']],
  ['archive', 'Archive', ['scan', 'box list', 'lease of 1742', 'photo']],
  ['camera', 'Camera', ['motion', 'night', 'restarted', 'storage full']],
  ['board', 'Board', ['minutes', 'agenda', 'vote', 'urgent']],
  ['village', 'Village', ['fair', 'parking', 'minutes', 'hall']],
] as const;
const NAMES = ['Ada Finch', 'Bo Lind', 'Cleo Marsh', 'Dan Orr', 'Eve Stone', 'Finn Wade', 'Gwen Hale', 'Hal Birch'];
const LOCALS = ['info', 'office', 'news', 'accounts', 'support', 'alerts'];
const SMALL_TALK = ['hello again', 'about Saturday', 'a question', 'thank you', 'pictures of the dog', 'lunch?'];

/** A sender, and what they write about. */
interface Writer {
  readonly name: string;
  readonly address: string;
  readonly list: string | null;
  readonly bulk: boolean;
  readonly subjects: readonly string[];
  readonly weight: number;
}

/** A rule as its parts, so that faults can change one of them. */
interface CaseRule {
  readonly name: string;
  /** Tests of which all must match, as Sieve. */
  readonly all: readonly string[];
  readonly unless: readonly string[];
  readonly actions: readonly string[];
  readonly stop: boolean;
}

/** One made-up user. Everything follows from the seed. */
export function intentCase(seed: number): IntentCase {
  const dice = new Dice(seed * 7919 + 17);
  const topics = shuffled(TOPICS, dice).slice(0, dice.between(16, TOPICS.length));
  const writers = topics.flatMap(([topic, , subjects]) => writersOf(topic, subjects, dice));
  const people = NAMES.map((name): Writer => {
    const local = name.toLowerCase().replace(' ', '.');
    const subjects = [...SMALL_TALK, ...dice.pick(topics)[2].slice(0, 2)];
    return {
      name,
      address: `${local}@friends${dice.between(1, 3)}.example`,
      list: null,
      bulk: false,
      subjects,
      weight: 2,
    };
  });
  const all = [...writers, ...people];
  const rules = intendedRules(topics, writers, people, dice);
  const { faulty, faults } = withFaults(rules, writers, dice);
  const lying = new Dice(seed * 31 + 5);
  const folders = [...new Set(rules.flatMap(({ actions }) => actions.flatMap((one) => folderOf(one) ?? [])))];
  const draws = Array.from({ length: MESSAGES }, () => ({ chance: lying.next(), other: lying.pick(folders) }));
  return {
    name: `case ${seed}`,
    intended: sieveOf(rules),
    faulty: sieveOf(faulty),
    faults,
    me: ME,
    stored: mailOf(all, new Dice(seed * 101 + 1), 's'),
    fresh: mailOf(all, new Dice(seed * 103 + 2), 'f'),
    lyingIn: (index, meant, put) => {
      const { chance, other } = draws[index] ?? { chance: 0, other: meant };
      if (chance < OWN_RIGHT) return meant;
      if (chance < 0.8) return 'INBOX';
      return chance < 0.92 ? put : other;
    },
  };
}

const MESSAGES = 1500;
/** The share of messages that the user's own filing has right. */
const OWN_RIGHT = 0.6;

function shuffled<T>(items: readonly T[], dice: Dice): T[] {
  const rest = [...items];
  return items.map(() => rest.splice(dice.between(0, rest.length - 1), 1)[0] as T);
}

function writersOf(topic: string, subjects: readonly string[], dice: Dice): Writer[] {
  const domain = `${topic}${dice.between(1, 9)}.example`;
  const count = dice.between(1, 3);
  const isList = dice.chance(0.25);
  const bulk = !isList && dice.chance(0.35);
  return shuffled(LOCALS, dice)
    .slice(0, count)
    .map((local, at) => ({
      name: `${local} of ${topic}`,
      address: `${local}@${at === 2 ? `mail.${domain}` : domain}`,
      list: isList ? `${topic}.${domain}` : null,
      bulk,
      subjects: [...subjects, `${dice.pick(SMALL_TALK)} (${topic})`],
      weight: dice.between(1, 9),
    }));
}

const domainOf = ({ address }: Writer): string => address.slice(address.indexOf('@') + 1);

function intendedRules(
  topics: readonly (typeof TOPICS)[number][],
  writers: readonly Writer[],
  people: readonly Writer[],
  dice: Dice,
): CaseRule[] {
  const special: CaseRule[] = [];
  const general: CaseRule[] = [];
  const last: CaseRule[] = [];
  for (const [topic, folder, subjects] of topics) {
    const own = writers.filter(({ name }) => name.endsWith(` of ${topic}`));
    const [first] = own;
    if (!first) continue;
    const domain = domainOf(first);
    const test = first.list
      ? `header :contains "list-id" "${first.list}"`
      : dice.chance(0.5)
        ? `address :domain :is "from" "${domain}"`
        : `address :is "from" [${own.map(({ address }) => `"${address}"`).join(', ')}]`;
    general.push(rule(topic, [test], [], [`fileinto "${folder}"`], true));
    const subject = dice.pick(subjects);
    if (dice.chance(0.45)) {
      special.push(
        rule(`${topic}: ${subject}`, [test, inSubject(subject)], [], [`fileinto "${folder}/${subject}"`], true),
      );
    }
    if (dice.chance(0.2)) general.push(rule(`mark ${topic}`, [test], [], ['addflag "$Marked"'], false));
  }
  for (const subject of ['invoice', 'reminder', 'newsletter', 'minutes', 'photo']) {
    if (!dice.chance(0.6)) continue;
    const exempt = dice.pick(writers);
    const by = dice.chance(0.5) ? `address :domain :is "from" "${domainOf(exempt)}"` : isFrom(exempt);
    const where = dice.chance(0.5) ? special : general;
    where.push(rule(`any ${subject}`, [inSubject(subject)], [by], [`fileinto "By subject/${subject}"`], true));
  }
  const [friend, unwanted] = [dice.pick(people), dice.pick(writers.filter(({ bulk }) => bulk).concat(writers))];
  special.unshift(rule(`from ${friend.name}`, [isFrom(friend)], [], [`fileinto "People/${friend.name}"`], true));
  special.unshift(rule('urgent', [inSubject('urgent')], [], ['addflag "\\\\Flagged"'], false));
  if (dice.chance(0.7)) {
    special.push(rule(`offers of ${unwanted.name}`, [isFrom(unwanted), inSubject('offer')], [], ['discard'], true));
  }
  const spared = dice.pick(writers);
  const notBulk = `address :domain :is "from" "${domainOf(spared)}"`;
  last.push(rule('bulk', ['exists "list-unsubscribe"'], [notBulk], ['fileinto "Bulk"'], true));
  last.push(rule('large', ['size :over 6K'], [], ['fileinto :copy "Large"'], false));
  return [...special, ...shuffled(general, dice), ...last];
}

const rule = (
  name: string,
  all: readonly string[],
  unless: readonly string[],
  actions: readonly string[],
  stop: boolean,
): CaseRule => ({ name, all, unless, actions, stop });
const inSubject = (words: string): string => `header :contains "subject" "${words}"`;
const isFrom = ({ address }: Pick<Writer, 'address'>): string => `address :is "from" "${address}"`;
const folderOf = (action: string): string | null => /^fileinto "([^"]*)"/.exec(action)?.[1] ?? null;

type Fault = (rules: CaseRule[], dice: Dice, writers: readonly Writer[]) => string | null;

/** Replaces one rule that fits; `change` returns null where it does not. */
function change(rules: CaseRule[], dice: Dice, make: (rule: CaseRule) => Partial<CaseRule> | null): string | null {
  const fitting = rules.flatMap((one, at) => {
    const made = make(one);
    return made ? [{ at, made: { ...one, ...made } }] : [];
  });
  if (fitting.length === 0) return null;
  const { at, made } = dice.pick(fitting);
  rules[at] = made;
  return made.name;
}

function move(rules: CaseRule[], from: number, to: number): void {
  const [moved] = rules.splice(from, 1);
  if (moved) rules.splice(to, 0, moved);
}

const FAULTS: Readonly<Record<string, Fault>> = {
  order: (rules, dice) => {
    const specials = rules.flatMap(({ name, all }, at) => (all.length > 1 && name.includes(':') ? [at] : []));
    if (specials.length === 0) return null;
    const at = dice.pick(specials);
    const moved = rules[at];
    move(rules, at, rules.length - 1);
    return moved?.name ?? null;
  },
  shadowing: (rules, dice) => {
    const at = rules.findIndex(({ name }) => name.startsWith('any '));
    const moved = rules[at];
    if (!moved || at < 2) return null;
    move(rules, at, dice.between(0, 1));
    return moved.name;
  },
  'no stop': (rules, dice) =>
    change(rules, dice, ({ stop, actions }) => (stop && actions[0]?.startsWith('fileinto') ? { stop: false } : null)),
  'a stop': (rules, dice) =>
    change(rules, dice, ({ stop, name }) => (!stop && name !== 'large' ? { stop: true } : null)),
  'lost exception': (rules, dice) => change(rules, dice, ({ unless }) => (unless.length > 0 ? { unless: [] } : null)),
  'narrow exception': (rules, dice, writers) =>
    change(rules, dice, ({ unless: [only] }) => {
      const domain = /:domain :is "from" "([^"]*)"/.exec(only ?? '')?.[1];
      const one = writers.find((writer) => domain !== undefined && domainOf(writer) === domain);
      return one ? { unless: [isFrom(one)] } : null;
    }),
  'too broad': (rules, dice) =>
    change(rules, dice, ({ all: [first, ...others] }) => {
      const [, address] = /^address :is "from" "([^"@]*)@/.exec(first ?? '') ?? [];
      if (address) return { all: [`header :contains "from" "${address.split('.')[0]}"`, ...others] };
      const [, domain] = /^address :domain :is "from" "([^"]*)"/.exec(first ?? '') ?? [];
      return domain ? { all: [`address :contains "from" "${domain.slice(0, 3)}"`, ...others] } : null;
    }),
  'too narrow': (rules, dice, writers) =>
    change(rules, dice, ({ all: [first, ...others] }) => {
      const [, domain] = /^address :domain :is "from" "([^"]*)"/.exec(first ?? '') ?? [];
      const one = writers.find((writer) => domainOf(writer) === domain);
      if (domain && one) return { all: [isFrom(one), ...others] };
      const [, several] = /^address :is "from" \[("[^"]*"), /.exec(first ?? '') ?? [];
      return several ? { all: [`address :is "from" ${several}`, ...others] } : null;
    }),
  'wrong folder': (rules, dice) => {
    const others = rules.flatMap(({ actions }) => actions.flatMap((one) => folderOf(one) ?? []));
    return change(rules, dice, ({ actions: [first] }) => {
      const [folder, other] = [folderOf(first ?? ''), dice.pick(others)];
      return folder && other !== folder ? { actions: [`fileinto "${other}"`] } : null;
    });
  },
  'missing folder': (rules, dice) =>
    change(rules, dice, ({ actions: [first] }) => {
      const folder = folderOf(first ?? '');
      return folder ? { actions: [`fileinto "${folder.slice(0, 1)}${folder.slice(2)}"`] } : null;
    }),
  duplicate: (rules, dice) => {
    const at = dice.between(0, rules.length - 1);
    const copy = rules[at];
    if (!copy) return null;
    rules.splice(dice.between(at + 1, rules.length), 0, { ...copy, name: `${copy.name} again` });
    return copy.name;
  },
};

function withFaults(rules: readonly CaseRule[], writers: readonly Writer[], dice: Dice) {
  const faulty = [...rules];
  const faults: string[] = [];
  const kinds = shuffled(Object.entries(FAULTS), dice).slice(0, dice.between(7, 10));
  for (const [kind, make] of kinds) {
    const about = make(faulty, dice, writers);
    if (about !== null) faults.push(`${kind}: ${about}`);
  }
  return { faulty, faults };
}

function sieveOf(rules: readonly CaseRule[]): string {
  const lines = ['require ["fileinto", "copy", "imap4flags"];'];
  for (const { name, all, unless, actions, stop } of rules) {
    const tests = [...all, ...unless.map((test) => `not ${test}`)];
    const test = tests.length === 1 ? tests[0] : `allof (${tests.join(', ')})`;
    lines.push(
      '',
      `# ${name}`,
      `if ${test} {`,
      ...[...actions, ...(stop ? ['stop'] : [])].map((one) => `    ${one};`),
      '}',
    );
  }
  return `${lines.join('\n')}\n`;
}

function mailOf(writers: readonly Writer[], dice: Dice, mark: string): CaseMessage[] {
  const weighted = writers.flatMap((writer) => Array.from({ length: writer.weight }, () => writer));
  const start = Date.UTC(2025, 0, 6);
  return Array.from({ length: MESSAGES }, (_, at): CaseMessage => {
    const { name, address, list, bulk, subjects } = dice.pick(weighted);
    const date = new Date(start + at * 5_400_000).toUTCString().replace('GMT', '+0000');
    const lines = [
      `Return-Path: <${address}>`,
      `From: ${name} <${address}>`,
      `To: ${list ? `${list.split('.')[0]}@lists.example` : ME}`,
      `Subject: ${dice.chance(0.15) ? 'Re: ' : ''}${dice.pick(subjects)}${dice.chance(0.4) ? ` ${dice.between(2, 99)}` : ''}`,
      `Date: ${date}`,
      `Message-ID: <${mark}${at}@${address.split('@')[1]}>`,
      ...(list ? [`List-Id: <${list}>`] : []),
      ...(bulk ? [`List-Unsubscribe: <mailto:leave@${address.split('@')[1]}>`] : []),
      '',
      'A line of text.\n'.repeat(dice.chance(0.04) ? 500 : dice.between(1, 20)),
    ];
    const seen = dice.chance(0.8);
    return { text: lines.join('\r\n'), seen, answered: seen && !bulk && !list && dice.chance(0.15) };
  });
}
