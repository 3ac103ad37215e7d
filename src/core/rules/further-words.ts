import type { ComparedTest, Comparison, Occurrence, QueryTest, Relation, Subject, Zone } from './comparison';
import type { FurtherAction } from './further-actions';
import { addressee, caseWords, headerWords, joined, keysWords, quoted } from './words';

/** Further tests and actions in plain words (need N5); each kind has its own. */

/** A test that compares, or its negation. */
export function comparedWords({ subject, by }: ComparedTest, negated: boolean): string {
  if (by.match === 'count') {
    return `the number of ${countedWords(subject)} ${relationWords(AS_NUMBERS, by.relation, negated, joined(by.keys, 'or'))}`;
  }
  const how = by.match === 'value' ? valueWords(subject, by, negated) : matchWords(subject, by, negated);
  return `${subjectWords(subject)} ${how}${caseWords(by.comparator)}`;
}

type TextComparison = Exclude<Comparison, { relation: Relation }>;

function matchWords(subject: Subject, { match, keys }: TextComparison, negated: boolean): string {
  const named = keysOf(subject, keys);
  switch (match) {
    case 'is':
      return `is ${negated ? 'not ' : ''}${named}`;
    case 'contains':
      return `${negated ? 'does not contain' : 'contains'} ${named}`;
    case 'matches':
      return `${negated ? 'does not have' : 'has'} the form ${named}`;
    case 'regex':
      return `${negated ? 'does not fit' : 'fits'} the pattern ${named}`;
    case 'list':
      return `is ${negated ? 'not ' : ''}in the server’s list ${named}`;
    default:
      match satisfies never;
      throw new Error('unknown match type');
  }
}

type Ordered = Extract<Comparison, { relation: Relation }>;

function valueWords(subject: Subject, { relation, comparator, keys }: Ordered, negated: boolean): string {
  const isDate = subject.of === 'date' || subject.of === 'currentdate';
  const isNumber = comparator === 'i;ascii-numeric';
  const order = isDate ? AS_TIMES : isNumber ? AS_NUMBERS : AS_TEXTS;
  const named = isNumber && !isDate ? joined(keys, 'or') : keysOf(subject, keys);
  return relationWords(order, relation, negated, named);
}

/** For each relation what stands before and behind the keys. */
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
  gt: ['is behind', ' in the alphabet'],
  ge: ['is', ' or behind that in the alphabet'],
  lt: ['is before', ' in the alphabet'],
  le: ['is', ' or before that in the alphabet'],
  eq: ['is', ''],
  ne: ['is other than', ''],
};

function relationWords(order: Order, relation: Relation, negated: boolean, named: string): string {
  const [before, behind] = order[relation];
  return `${negated ? before.replace(/^is/, 'is not') : before} ${named}${behind}`;
}

const MONTHS = 'January February March April May June July August September October November December'.split(' ');
const WEEKDAYS = 'Sunday Monday Tuesday Wednesday Thursday Friday Saturday'.split(' ');

/** Months and weekdays by their names, times as they are, anything else in quotation marks. */
function keysOf(subject: Subject, keys: readonly string[]): string {
  if (subject.of !== 'date' && subject.of !== 'currentdate') return keysWords(keys);
  const named = keys.map((key) => {
    if (subject.part === 'month' && /^(0[1-9]|1[0-2])$/.test(key)) return MONTHS[Number(key) - 1] ?? key;
    if (subject.part === 'weekday' && /^[0-6]$/.test(key)) return WEEKDAYS[Number(key)] ?? key;
    return /^[\d:+-]+$/.test(key) ? key : quoted(key);
  });
  return named.length === 0 ? 'nothing' : joined(named, 'or');
}

function subjectWords(subject: Subject): string {
  switch (subject.of) {
    case 'header':
      return `${optionWords(subject)}${occurrenceWords(subject.occurrence)}${headerWords(subject.headers)}${withinWords(subject)}`;
    case 'address':
      return `the ${PART_WORDS[subject.part]} ${occurrenceWords(subject.occurrence)}${joined(subject.headers.map(addressee), 'or')}${withinWords(subject)}`;
    case 'envelope': {
      const whose = joined(subject.parts.map(envelopeWords), 'or');
      return subject.part === 'all' ? `the ${whose}` : `the ${PART_WORDS[subject.part]} of the ${whose}`;
    }
    case 'body':
      return subject.transform === 'raw' ? 'the text as it was sent' : 'the text';
    case 'body parts':
      return `a part of the type ${joined(subject.types.map(quoted), 'or')}`;
    case 'date':
      return `${dateWords(subject.part)} in ${occurrenceWords(subject.occurrence)}${subject.header}${zoneWords(subject.zone)}`;
    case 'currentdate':
      return `${dateWords(subject.part)} on arrival${zoneWords(subject.zone)}`;
    case 'environment':
      return `the server’s “${subject.name}”`;
    case 'string':
      return `the fixed text ${joined(subject.texts.map(quoted), 'or')}`;
    case 'metadata':
      return `the annotation ${quoted(subject.annotation)} of the folder ${quoted(subject.folder)}`;
    case 'servermetadata':
      return `the annotation ${quoted(subject.annotation)} of the server`;
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

function countedWords(subject: Subject): string {
  if (subject.of === 'header') return `${joined(subject.headers, 'and')} headers${withinWords(subject)}`;
  if (subject.of === 'address')
    return `addresses ${joined(subject.headers.map(addressee), 'and')}${withinWords(subject)}`;
  return `values of ${subjectWords(subject)}`;
}

const PART_WORDS = {
  all: 'address',
  localpart: 'local part',
  domain: 'domain',
  user: 'local part before the plus sign',
  detail: 'local part behind the plus sign',
} as const;

type Fields = Extract<Subject, { of: 'header' | 'address' }>;

const withinWords = ({ within }: Pick<Fields, 'within'>): string => {
  if (within === undefined) return '';
  return within === 'part' ? ' of the outermost part' : ' of any part';
};

function optionWords({ option }: Extract<Subject, { of: 'header' }>): string {
  if (!option) return '';
  if (option.take === 'param') return `the parameter ${joined(option.names.map(quoted), 'or')} of `;
  return { type: 'the main type in ', subtype: 'the subtype in ', contenttype: 'the media type in ' }[option.take];
}

function occurrenceWords(occurrence: Occurrence | undefined): string {
  if (!occurrence) return '';
  const { number, fromEnd } = occurrence;
  if (!fromEnd) return `number ${number} of `;
  return number === 1 ? 'the last of ' : `number ${number} from the end of `;
}

const envelopeWords = (part: string): string =>
  ({ from: 'envelope sender', to: 'envelope recipient' })[part] ?? `envelope’s ${quoted(part)}`;

/** The parts of a date (RFC 5260 section 4.2). */
const DATE_WORDS: Readonly<Record<string, string>> = {
  year: 'the year',
  month: 'the month',
  day: 'the day of the month',
  date: 'the day',
  julian: 'the number of the day',
  hour: 'the hour',
  minute: 'the minute',
  second: 'the second',
  time: 'the time of day',
  iso8601: 'the time',
  std11: 'the date as it is written',
  zone: 'the time zone',
  weekday: 'the weekday',
};
const dateWords = (part: string): string => DATE_WORDS[part] ?? `the ${part}`;

const zoneWords = (zone: Zone): string => {
  if (zone === null) return '';
  return zone === 'original' ? ', as the sender wrote it,' : `, in the time zone ${zone},`;
};

/** A test that asks for what is there or what a server can do, or its negation. */
export function queryWords(query: QueryTest, negated: boolean): string {
  switch (query.test) {
    case 'exists-in-parts': {
      const named = joined(query.headers.map(quoted), 'and');
      const where = query.within === 'part' ? 'the outermost part' : 'any part';
      return `there ${query.headers.length === 1 ? 'is' : 'are'} ${negated ? 'not ' : ''}${named} among the headers of ${where}`;
    }
    case 'mailboxexists':
      return thereWords('folder', query.folders, '', negated);
    case 'metadataexists':
      return thereWords('annotation', query.annotations, ` of the folder ${quoted(query.folder)}`, negated);
    case 'servermetadataexists':
      return thereWords('annotation', query.annotations, ' of the server', negated);
    case 'specialuse_exists': {
      const which = query.folder === null ? 'some folder' : `the folder ${quoted(query.folder)}`;
      return `${which} is ${negated ? 'not ' : ''}used as ${joined(query.uses.map(quoted), 'and')}`;
    }
    case 'valid_notify_method':
      return `the server ${can(negated)} notify ${joined(query.uris.map(quoted), 'and')}`;
    case 'valid_ext_list':
      return `the server ${negated ? 'does not have' : 'has'} the list ${joined(query.names.map(quoted), 'and')}`;
    case 'ihave':
      return `the server ${negated ? 'does not know' : 'knows'} ${joined(query.capabilities.map(quoted), 'and')}`;
    case 'convert':
      return `the server ${can(negated)} convert ${quoted(query.from)} into ${quoted(query.to)}`;
    case 'duplicate':
      return `${negated ? 'no' : 'a'} message with the same ${identityWords(query)} has come before${timeWords(query.seconds)}`;
    default:
      query satisfies never;
      throw new Error('unknown test');
  }
}

const can = (negated: boolean): string => (negated ? 'cannot' : 'can');

function thereWords(what: string, names: readonly string[], whose: string, negated: boolean): string {
  const named = joined(names.map(quoted), 'and');
  if (names.length === 1) return `the ${what} ${named}${whose} ${negated ? 'does not exist' : 'exists'}`;
  return `${negated ? 'not all of ' : ''}the ${what}s ${named}${whose} exist`;
}

function identityWords({ identity }: Extract<QueryTest, { test: 'duplicate' }>): string {
  if (!identity) return 'Message-ID';
  return identity.by === 'header' ? identity.of : `mark ${quoted(identity.of)}`;
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
  return ` within ${count} ${unit}${count === 1 ? '' : 's'}`;
}

export function furtherActionWords(action: FurtherAction): string {
  switch (action.action) {
    case 'vacation':
      return 'reply automatically';
    case 'notify':
      return 'send a notification';
    case 'reject':
    case 'ereject':
      return 'refuse';
    case 'fileinto-use':
      return `${action.copy ? 'put a copy into' : 'file into'} the folder used as ${quoted(action.use)}, or into ${quoted(action.folder)} where no folder is`;
    case 'redirect-further': {
      const where = action.list ? `the server’s list ${quoted(action.address)}` : action.address;
      return `${action.copy ? 'send a copy to' : 'redirect to'} ${where}`;
    }
    case 'replace':
      return 'replace the text';
    case 'enclose':
      return 'enclose the message in a new one';
    case 'convert':
      return `convert ${quoted(action.from)} into ${quoted(action.to)}`;
    case 'error':
      return `end with the error ${quoted(action.message)}`;
    default:
      action satisfies never;
      throw new Error('unknown action');
  }
}
