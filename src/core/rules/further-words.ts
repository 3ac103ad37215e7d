import type { Relation } from '../text/relation';
import type { ComparedTest, Comparison, QueryTest, Subject, Zone } from './comparison';
import type { FurtherAction } from './further-actions';
import {
  addressSubject,
  caseWords,
  fieldName,
  fieldNames,
  filingWords,
  joined,
  keysWords,
  matchWords,
  maybeDay,
  maybeMonth,
  maybeWeekday,
  predicated,
  presentWords,
  quoted,
} from './words';

/** Sentences of further tests and actions (need N5), by kind. */

/** A test that compares, or its negation. */
export function comparedWords({ subject, by }: ComparedTest, negated: boolean): string {
  if (by.match === 'count') {
    const [said, denied] = relationWords(AS_NUMBERS, by.relation, joined(by.keys, 'or'));
    return predicated(`the number of ${countedWords(subject)}`, said, denied, negated);
  }
  if (by.match === 'value') {
    const [said, denied] = valueWords(subject, by);
    return predicated(subjectWords(subject), said, denied, negated) + caseWords(by.comparator);
  }
  return matchWords(subjectWords(subject), by.match, namedKeys(subject, by.keys), negated) + caseWords(by.comparator);
}

type Ordered = Extract<Comparison, { relation: Relation }>;

function valueWords(subject: Subject, { relation, comparator, keys }: Ordered): readonly [string, string] {
  const isDate = subject.of === 'date' || subject.of === 'currentdate';
  const isNumber = comparator === 'i;ascii-numeric';
  const order = isDate ? AS_TIMES : isNumber ? AS_NUMBERS : AS_TEXTS;
  return relationWords(order, relation, isNumber && !isDate ? joined(keys, 'or') : keysWords(namedKeys(subject, keys)));
}

/** For each relation, the words before and after the keys. */
type Order = Readonly<Record<Relation, readonly [string, string]>>;

const AS_NUMBERS: Order = {
  gt: ['is more than', ''],
  ge: ['is at least', ''],
  lt: ['is less than', ''],
  le: ['is at most', ''],
  eq: ['is', ''],
  ne: ['is other than', ''],
};
const AS_TIMES: Order = {
  gt: ['is after', ''],
  ge: ['is', ' or later'],
  lt: ['is before', ''],
  le: ['is', ' or earlier'],
  eq: ['is', ''],
  ne: ['is other than', ''],
};
const AS_TEXTS: Order = {
  gt: ['is after', ' in alphabetical order'],
  ge: ['is', ' or after it in alphabetical order'],
  lt: ['is before', ' in alphabetical order'],
  le: ['is', ' or before it in alphabetical order'],
  eq: ['is', ''],
  ne: ['is other than', ''],
};

/** A relation to keys, and its negation. */
function relationWords(order: Order, relation: Relation, named: string): readonly [string, string] {
  const [before, behind] = order[relation];
  return [`${before} ${named}${behind}`, `${before.replace(/^is/, 'is not')} ${named}${behind}`];
}

/** Months and weekdays by their names, days as people write them, times as they are, anything else in quotation marks. */
function namedKeys(subject: Subject, keys: readonly string[]): string[] {
  if (subject.of !== 'date' && subject.of !== 'currentdate') return keys.map(quoted);
  return keys.map((key) => maybeDateKey(subject.part, key) ?? (/^[\d:+-]+$/.test(key) ? key : quoted(key)));
}

function maybeDateKey(part: string, key: string): string | null {
  switch (part) {
    case 'month':
      return maybeMonth(key);
    case 'weekday':
      return maybeWeekday(key);
    case 'date':
      return maybeDay(key);
    case 'time':
      return /^\d\d:\d\d:00$/.test(key) ? key.slice(0, 5) : null;
    default:
      return null;
  }
}

function subjectWords(subject: Subject): string {
  switch (subject.of) {
    case 'header':
      return `${optionWords(subject)}${fieldsWords(subject)}${withinWords(subject)}`;
    case 'address':
      return `${addressWords(subject)}${withinWords(subject)}`;
    case 'envelope': {
      const whose = joined(subject.parts.map(envelopeWords), 'or');
      return subject.part === 'all' ? `the ${whose}` : `the ${PART_WORDS[subject.part]} of the ${whose}`;
    }
    case 'body':
      return subject.transform === 'raw' ? 'the raw body' : 'the body';
    case 'body parts':
      return `a body part of type ${joined(subject.types.map(quoted), 'or')}`;
    case 'date':
      return `${dateWords(subject.part)} in ${fieldsWords({ headers: [subject.header], ...subject })}${zoneWords(subject.zone)}`;
    case 'currentdate':
      return `${dateWords(subject.part)} of arrival${zoneWords(subject.zone)}`;
    case 'environment':
      return `the server’s “${subject.name}”`;
    case 'string':
      return `the fixed text ${joined(subject.texts.map(quoted), 'or')}`;
    case 'metadata':
      return `the annotation ${quoted(subject.annotation)} of folder ${quoted(subject.folder)}`;
    case 'servermetadata':
      return `the server’s annotation ${quoted(subject.annotation)}`;
    case 'spamtest':
      return `the server’s spam score${subject.percent ? ' in percent' : ''}`;
    case 'virustest':
      return 'the server’s virus score';
    case 'notify_method_capability':
      return `the state ${quoted(subject.capability)} of ${quoted(subject.uri)}`;
    default:
      subject satisfies never;
      throw new Error('unknown subject');
  }
}

/** Fields, or one of several of that name. */
function fieldsWords({ headers, occurrence }: Pick<Fields, 'headers' | 'occurrence'>): string {
  const named = fieldNames(headers, 'or');
  if (!occurrence) return named;
  const { number, fromEnd } = occurrence;
  return `the ${ordinal(number, fromEnd)} ${named.replace('the subject', 'Subject')}`;
}

function addressWords(subject: Extract<Subject, { of: 'address' }>): string {
  return subject.occurrence
    ? `the ${PART_WORDS[subject.part]} in ${fieldsWords(subject)}`
    : addressSubject(PART_WORDS[subject.part], subject.headers);
}

/** “first”, “third”, “last”, “second to last”. */
function ordinal(number: number, fromEnd: boolean): string {
  const word = ['first', 'second', 'third', 'fourth', 'fifth'][number - 1] ?? `${number}th`;
  if (!fromEnd) return word;
  return number === 1 ? 'last' : `${word} to last`;
}

function countedWords(subject: Subject): string {
  const within = subject.of === 'header' || subject.of === 'address' ? withinWords(subject) : '';
  if (subject.of === 'header')
    return `${fieldNames(subject.headers, 'and').replace('the subject', 'Subject')} fields${within}`;
  if (subject.of === 'address') return `addresses in ${fieldNames(subject.headers, 'and')}${within}`;
  return `values of ${subjectWords(subject)}`;
}

const PART_WORDS = {
  all: 'address',
  localpart: 'local part',
  domain: 'domain',
  user: 'local part before “+”',
  detail: 'local part after “+”',
} as const;

type Fields = Extract<Subject, { of: 'header' | 'address' }>;

const withinWords = ({ within }: Pick<Fields, 'within'>): string => {
  if (within === undefined) return '';
  return within === 'part' ? ' in the outermost MIME part' : ' in any MIME part';
};

function optionWords({ option }: Extract<Subject, { of: 'header' }>): string {
  if (!option) return '';
  if (option.take === 'param') return `the parameter ${joined(option.names.map(quoted), 'or')} of `;
  return { type: 'the top-level type in ', subtype: 'the subtype in ', contenttype: 'the media type in ' }[option.take];
}

const envelopeWords = (part: string): string =>
  ({ from: 'envelope sender', to: 'envelope recipient' })[part] ?? `envelope’s ${quoted(part)}`;

/** The parts of a date (RFC 5260 section 4.2). */
const DATE_WORDS: Readonly<Record<string, string>> = {
  year: 'the year',
  month: 'the month',
  day: 'the day of the month',
  date: 'the date',
  julian: 'the Julian day',
  hour: 'the hour',
  minute: 'the minute',
  second: 'the second',
  time: 'the time',
  iso8601: 'the date and time',
  std11: 'the date as written',
  zone: 'the time zone',
  weekday: 'the weekday',
};
const dateWords = (part: string): string => DATE_WORDS[part] ?? `the ${part}`;

const zoneWords = (zone: Zone): string => {
  if (zone === null) return '';
  return zone === 'original'
    ? ' (in the sender’s time zone)'
    : ` (in time zone ${zone.replace(/(\d\d)(\d\d)$/, '$1:$2')})`;
};

/** A query, or its negation. */
export function queryWords(query: QueryTest, negated: boolean): string {
  switch (query.test) {
    case 'exists-in-parts':
      return presentWords(
        query.headers,
        query.within === 'part' ? ' in the outermost MIME part' : ' in a MIME part',
        negated,
      );
    case 'mailboxexists':
      return thereWords('folder', query.folders, '', negated);
    case 'metadataexists':
      return thereWords('annotation', query.annotations, ` of folder ${quoted(query.folder)}`, negated);
    case 'servermetadataexists':
      return thereWords('annotation', query.annotations, ' of the server', negated);
    case 'specialuse_exists': {
      const which = query.folder === null ? 'a folder' : `folder ${quoted(query.folder)}`;
      const uses = joined(query.uses.map(specialUse), 'and');
      return predicated(which, `has the special use ${uses}`, `does not have the special use ${uses}`, negated);
    }
    case 'valid_notify_method':
      return `the server ${can(negated)} notify ${joined(query.uris.map(quoted), 'and')}`;
    case 'valid_ext_list':
      return `the server ${negated ? 'does not have' : 'has'} the list ${joined(query.names.map(quoted), 'and')}`;
    case 'ihave':
      return `the server ${negated ? 'does not support' : 'supports'} ${joined(query.capabilities.map(quoted), 'and')}`;
    case 'convert':
      return `the server ${can(negated)} convert ${quoted(query.from)} into ${quoted(query.to)}`;
    case 'duplicate':
      return `${negated ? 'no' : 'a'} message with the same ${identityWords(query)} arrived ${timeWords(query.seconds)}earlier`;
    default:
      query satisfies never;
      throw new Error('unknown test');
  }
}

/** RFC 6154 writes `\\Junk`. */
const specialUse = (use: string): string => quoted(use.replace(/^\\/, ''));

const can = (negated: boolean): string => (negated ? 'cannot' : 'can');

function thereWords(what: string, names: readonly string[], whose: string, negated: boolean): string {
  const named = joined(names.map(quoted), 'and');
  if (names.length === 1) return `${what} ${named}${whose} ${negated ? 'does not exist' : 'exists'}`;
  return `${negated ? 'not all of ' : ''}${what}s ${named}${whose} exist`;
}

function identityWords({ identity }: Extract<QueryTest, { test: 'duplicate' }>): string {
  if (!identity) return 'Message-ID';
  return identity.by === 'header' ? fieldName(identity.of) : `identifier ${quoted(identity.of)}`;
}

const TIMES = [
  [86_400, 'day'],
  [3600, 'hour'],
  [60, 'minute'],
  [1, 'second'],
] as const;

function timeWords(seconds: number | null): string {
  const [size, unit] = TIMES.find(([length]) => seconds !== null && seconds > 0 && seconds % length === 0) ?? [];
  if (seconds === null || size === undefined) return '';
  const count = seconds / size;
  return `up to ${count} ${unit}${count === 1 ? '' : 's'} `;
}

export function furtherActionWords(action: FurtherAction): string {
  switch (action.action) {
    case 'vacation':
      return 'send an automatic reply';
    case 'notify':
      return 'send a notification';
    case 'reject':
    case 'ereject':
      return 'reject';
    case 'fileinto-use':
      return `${filingWords(action.copy)} the folder with special use ${specialUse(action.use)}, or into ${quoted(action.folder)} if there is none`;
    case 'redirect-further': {
      const where = action.list ? `the server’s list ${quoted(action.address)}` : action.address;
      return `${action.copy ? 'redirect a copy to' : 'redirect to'} ${where}`;
    }
    case 'replace':
      return 'replace the body';
    case 'enclose':
      return 'enclose the message in a new one';
    case 'convert':
      return `convert ${quoted(action.from)} into ${quoted(action.to)}`;
    case 'error':
      return `fail with the error ${quoted(action.message)}`;
    default:
      action satisfies never;
      throw new Error('unknown action');
  }
}
