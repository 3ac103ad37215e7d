import { and, eq } from 'drizzle-orm';
import { traceMessage } from '../../core/flow/trace';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { type Reading, readingOf } from '../../core/mail/reading';
import { profileOf } from '../../core/rules/profile';
import type { Evidence } from '../../core/sieve/interpret/run';
import { worldFor } from '../../core/sieve/interpret/world';
import { elementAt } from '../../core/text/lookup';
import type { Span } from '../../core/text/span';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { type FateView, fateView } from '../chain/destinations';
import { type ShownOutline, shown, shownOutline, shownSentence } from '../chain/shortened';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import type { Oddity } from '../gather/oddities';
import { maybeKnown } from './knowledge';
import { maybePresent } from './message-numbers';
import { maybeRaw } from './raw';
import { isLeftOut } from './traffic';

/** A message as evidence: its text with numbered marks, and the rules tried, with the same numbers. */
export interface MessageView extends TracedView {
  readonly number: number;
  /** Where it is: mostly one folder. */
  readonly folders: readonly string[];
  /** Whether it takes no part in flows, since the user sent it. */
  readonly sent: boolean;
  readonly flags: readonly string[];
  /** Milliseconds since 1970; null if unknown. */
  readonly received: number | null;
  readonly oddities: readonly Oddity[];
  /** Messages of its conversation, including itself; null while unknown. */
  readonly conversation: number | null;
}

/** The trace of a stored or made-up message through the draft. */
export interface TracedView {
  readonly fields: readonly FieldView[];
  readonly body: BodyView;
  readonly octets: number;
  readonly fate: FateView;
  /** Why the chain fails on this message, which is then only kept; null if it does not. */
  readonly error: string | null;
  readonly entries: readonly TracedRule[];
}

/** The texts of a message, as its rules compare them, and its attachments. */
export interface BodyView extends Pick<Reading, 'attachments'> {
  readonly texts: readonly TextView[];
  /** Why not all of it is shown; null if it is. */
  readonly fault: string | null;
}

export interface TextView {
  readonly type: string;
  readonly name: string | null;
  readonly text: string;
  readonly marks: readonly Mark[];
  /** Whether it need not be read: an alternative of the text before it, in which no test matched a word. */
  readonly folded: boolean;
}

/** Words that made tests match. */
export interface Mark {
  readonly span: Span;
  /** The numbers of the rules whose tests matched these words. */
  readonly rules: readonly number[];
  /** The rules whose words end with this piece; their numbers are shown here. */
  readonly ends: readonly number[];
}

export interface FieldView {
  readonly name: string;
  readonly value: string;
  /** In order, not overlapping. */
  readonly marks: readonly Mark[];
}

export interface TracedRule {
  /** Index in the chain, counted from 1: the number of its marks. */
  readonly number: number;
  readonly id: string;
  readonly name: string;
  readonly sentence: string;
  readonly outline: ShownOutline;
  readonly outcome: 'fired' | 'did not hold' | 'not reached' | 'passed over';
  readonly stopped: boolean;
  readonly tests: readonly {
    readonly text: string;
    /** The test in plain words; null for one that is shown as Sieve. */
    readonly words: string | null;
    readonly holds: boolean;
    /** What made it match, in words: `Subject “…oak…” by "oak"`. */
    readonly evidence: readonly string[];
  }[];
}

/** Longer header text is shortened. */
const SHOWN_VALUE = 4000;
const SHOWN_FIELDS = 200;
const SHOWN_TEXT = 100_000;
const SHOWN_TEST = 1000;
/** Octets of a message read for its page. */
const READ_LIMIT = 64 * 1024 * 1024;

export function messageView(store: Store, auditId: string, number: number): MessageView {
  const audit = getAudit(store, auditId);
  const row = store
    .select()
    .from(messages)
    .where(and(eq(messages.auditId, auditId), eq(messages.number, number)))
    .get();
  const raw =
    row && number < audit.messageCount && (maybePresent(store, audit)?.has(number) ?? true)
      ? maybeRaw(store, auditId, number, READ_LIMIT)
      : null;
  if (!row || !raw) throw new Refusal('There is no such message.', 404);
  const roots = maybeKnown(store, audit, 'conversations');
  const traced = tracedView(audit, raw, { whole: row.octets, size: row.size });
  return {
    ...traced,
    number,
    folders: row.places ?? [row.folder],
    sent: isLeftOut(store, audit, number),
    flags: row.flags,
    received: row.received,
    oddities: row.oddities,
    conversation: roots && conversationSize(store, audit, roots, number),
  };
}

function conversationSize(store: Store, audit: Audit, roots: readonly number[], number: number): number {
  const present = maybePresent(store, audit);
  return roots.filter((root, at) => root === roots[number] && (present?.has(at) ?? true)).length;
}

/** The size of a stored message; 0 where there is none. */
export function octetsOf(store: Store, auditId: string, number: number): number {
  const row = store
    .select({ octets: messages.octets })
    .from(messages)
    .where(and(eq(messages.auditId, auditId), eq(messages.number, number)))
    .get();
  return row?.octets ?? 0;
}

interface Given {
  /** Octets of the whole message, of which only the beginning may be loaded. */
  readonly whole: number;
  /** The size that tests compare. */
  readonly size: number;
}

/** The trace of a message that is not stored. */
export function madeUpView(audit: Audit, raw: Uint8Array): TracedView {
  const { size } = readMessage(raw);
  return tracedView(audit, raw, { whole: raw.length, size });
}

function tracedView(audit: Audit, raw: Uint8Array, given: Given): TracedView {
  const message = { ...readMessage(raw), size: given.size };
  const envelope = envelopeOf(message, audit.recipient);
  const trace = traceMessage(audit.draft, message, envelope, worldFor(message, audit.clock));
  const places = new Map(audit.draft.entries.map((entry, place) => [entry.id, place + 1]));
  const reading = readingOf(message);
  const inFields: Found[] = [];
  const inTexts: Found[] = [];
  const entries = trace.entries.map(({ entry, outcome, stopped, tests }): TracedRule => {
    const rule = places.get(entry.id) ?? 0;
    for (const found of tests.flatMap((test) => test.evidence)) {
      const { where } = found;
      if (where.kind === 'header') {
        const value = message.fields[where.field]?.value ?? '';
        for (const span of spansInField(value, found)) inFields.push({ place: where.field, span, rule });
      } else if (where.kind === 'body') inTexts.push(...foundInTexts(reading, found, where.part, rule));
    }
    return {
      number: rule,
      id: entry.id,
      name: entry.name,
      sentence: shownSentence(entry, profileOf(audit.draft)),
      outline: shownOutline(entry, profileOf(audit.draft)),
      outcome,
      stopped,
      tests: tests.map(({ text, words, holds, evidence }) => {
        const plain = words === null ? null : shown(words, SHOWN_TEST);
        return { text: shown(text, SHOWN_TEST), words: plain, holds, evidence: evidence.map(evidenceWords) };
      }),
    };
  });
  return {
    fields: message.fields.slice(0, SHOWN_FIELDS).map((field, index) => {
      return {
        name: field.name,
        value: field.value.slice(0, SHOWN_VALUE),
        marks: marksAt(inFields, index, SHOWN_VALUE),
      };
    }),
    body: bodyView(reading, inTexts, given.whole > raw.length),
    octets: given.whole,
    fate: fateView(trace.fate),
    error: trace.error,
    entries,
  };
}

/** Words that a test matched, in a field or in a text by its index. */
interface Found {
  readonly place: number;
  readonly span: Span;
  readonly rule: number;
}

function bodyView({ texts, attachments, deep }: Reading, found: readonly Found[], isCut: boolean): BodyView {
  const faults = [
    ...(isCut ? [`only the first ${READ_LIMIT / 1024 / 1024} MB of its text were read`] : []),
    ...(deep ? ['some are nested too deeply'] : []),
  ];
  return {
    texts: texts.flatMap(({ text, type, name, again }, place) => {
      const marks = marksAt(found, place, SHOWN_TEXT);
      if (text === '') return [];
      return [{ type, name, text: text.slice(0, SHOWN_TEXT), marks, folded: again && marks.length === 0 }];
    }),
    attachments,
    fault: faults.length > 0 ? faults.join('; ') : null,
  };
}

/**
 * Finds the words that a body test matched within the texts shown. Tests of the text give the position; matches in the
 * source of a part, or of the whole body, are searched in the texts.
 */
function foundInTexts({ texts }: Reading, { value, spans }: Evidence, part: number | null, rule: number): Found[] {
  return texts.flatMap((one, place): Found[] => {
    if (part !== null && one.part !== part) return [];
    const exact = one.text === value;
    return spans.flatMap(({ start, end }) => {
      const at = exact ? start : one.text.indexOf(value.slice(start, end));
      return end <= start || at < 0 ? [] : [{ place, span: { start: at, end: at + end - start }, rule }];
    });
  });
}

const marksAt = (found: readonly Found[], place: number, limit: number): Mark[] =>
  mergeMarks(found.filter((one) => one.place === place && one.span.end <= limit));

/**
 * An address test matches an address, not the field, so the address is searched in the field's text. If it is not
 * found, as with unusual quoting, the whole field is marked.
 */
function spansInField(value: string, found: Evidence): Span[] {
  if (found.value === value) return found.spans.filter((span) => span.end > span.start).map((span) => ({ ...span }));
  const at = value.toLowerCase().indexOf(found.value.toLowerCase());
  if (at < 0) return value === '' ? [] : [{ start: 0, end: value.length }];
  return found.spans
    .filter((span) => span.end > span.start)
    .map((span) => ({ start: at + span.start, end: at + span.end }));
}

/** Splits overlapping marks, so that they can be drawn one after another. */
function mergeMarks(marks: readonly Found[]): Mark[] {
  const edges = [...new Set(marks.flatMap(({ span }) => [span.start, span.end]))].sort((a, b) => a - b);
  return edges.slice(0, -1).flatMap((start, index) => {
    const end = elementAt(edges, index + 1);
    const rules = marks.filter(({ span }) => span.start <= start && span.end >= end).map(({ rule }) => rule);
    const ends = marks.filter(({ span }) => span.end === end).map(({ rule }) => rule);
    return rules.length === 0 ? [] : [{ span: { start, end }, rules: inOrder(rules), ends: inOrder(ends) }];
  });
}

const inOrder = (numbers: readonly number[]): number[] => [...new Set(numbers)].sort((a, b) => a - b);

/** What made a test match, in words. */
export function evidenceWords({ where, value, key, spans }: Evidence): string {
  const first = spans[0];
  const words = first ? value.slice(first.start, first.end) : value;
  const shown = words.length > 80 ? `${words.slice(0, 80)}…` : words;
  switch (where.kind) {
    case 'header':
      return spans.length === 0 ? `${where.name} is present` : `${where.name}: “${shown}” by “${key}”`;
    case 'envelope':
      return `envelope ${where.part}: “${shown}” by “${key}”`;
    case 'body':
      return `body: “${shown}” by “${key}”`;
    case 'other':
      return `${where.what}: “${shown}” by “${key}”`;
    case 'size':
      return `size ${value} against ${key}`;
    case 'flags':
      return `flag ${value} by “${key}”`;
    default:
      where satisfies never;
      return '';
  }
}
