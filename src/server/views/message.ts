import { and, eq } from 'drizzle-orm';
import { traceMessage } from '../../core/flow/trace';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { type MessageText, READ_LIMIT, readText } from '../../core/mail/mime';
import { sentenceOf } from '../../core/rules/sentence';
import type { Evidence } from '../../core/sieve/interpret/run';
import { makeWorld } from '../../core/sieve/interpret/world';
import type { Span } from '../../core/text/span';
import { type Audit, getAudit, Refusal } from '../audits';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { maybeKnown } from '../knowledge';
import type { Oddity } from '../oddities';
import { maybeRaw } from '../raw';
import { type FateView, fateView } from './destinations';

/** A message as evidence: its text with numbered marks, and the rules that were tried, with the same numbers. */
export interface MessageView extends TracedView {
  readonly number: number;
  readonly folder: string;
  readonly flags: readonly string[];
  /** Milliseconds since 1970; null where nothing tells when it arrived. */
  readonly received: number | null;
  readonly oddities: readonly Oddity[];
  /** Messages of its conversation, itself among them; null while that is not known. */
  readonly conversation: number | null;
}

/** A message, stored or made up, on its way through the draft. */
export interface TracedView {
  readonly fields: readonly FieldView[];
  readonly body: MessageText;
  readonly octets: number;
  readonly fate: FateView;
  /** Why the chain ends with an error on this message, after which it is only kept; null where it does not. */
  readonly error: string | null;
  readonly entries: readonly TracedRule[];
}

export interface FieldView {
  readonly name: string;
  readonly value: string;
  /** Marks in the value, in order, not overlapping; `rules` are the numbers of the rules whose tests met these words. */
  readonly marks: readonly {
    readonly span: Span;
    readonly rules: readonly number[];
    /** The rules whose words end with this piece: here their numbers are shown. */
    readonly ends: readonly number[];
  }[];
}

export interface TracedRule {
  /** Place in the chain, counted from 1: the number of its marks. */
  readonly number: number;
  readonly id: string;
  readonly name: string;
  readonly sentence: string;
  readonly outcome: 'fired' | 'did not hold' | 'not reached' | 'passed over';
  readonly stopped: boolean;
  readonly tests: readonly {
    readonly text: string;
    readonly holds: boolean;
    /** What made it hold, in words: `Subject “…oak…” by "oak"`. */
    readonly evidence: readonly string[];
  }[];
}

/** Header text longer than this is cut for showing. */
const SHOWN_VALUE = 4000;
const SHOWN_FIELDS = 200;
const SHOWN_TEXT = 100_000;

export async function messageView(store: Store, auditId: string, number: number): Promise<MessageView> {
  const audit = getAudit(store, auditId);
  const row = store
    .select()
    .from(messages)
    .where(and(eq(messages.auditId, auditId), eq(messages.number, number)))
    .get();
  const raw = row && number < audit.messageCount ? maybeRaw(store, auditId, number, READ_LIMIT) : null;
  if (!row || !raw) throw new Refusal('There is no such message.', 404);
  const roots = maybeKnown(store, audit, 'conversations');
  const traced = await tracedView(audit, raw, { whole: row.octets, size: row.size, recipient: null });
  return {
    ...traced,
    number,
    folder: row.folder,
    flags: JSON.parse(row.flags) as string[],
    received: row.received,
    oddities: JSON.parse(row.oddities) as Oddity[],
    conversation: roots?.filter((root) => root === roots[number]).length ?? null,
  };
}

interface Given {
  /** Octets of the whole message, of which only the first may be at hand. */
  readonly whole: number;
  /** What size tests compare. */
  readonly size: number;
  /** The recipient of the envelope, where the message does not tell. */
  readonly recipient: string | null;
}

/** A message that is not stored, on its way through the draft. */
export function madeUpView(audit: Audit, raw: Uint8Array): Promise<TracedView> {
  const { size } = readMessage(raw);
  return tracedView(audit, raw, { whole: raw.length, size, recipient: audit.ownAddresses[0] ?? null });
}

async function tracedView(audit: Audit, raw: Uint8Array, given: Given): Promise<TracedView> {
  const message = { ...readMessage(raw), size: given.size };
  const envelope = envelopeOf(message, given.recipient);
  const trace = traceMessage(audit.draft, message, envelope, makeWorld({ now: audit.now }));
  const places = new Map(audit.draft.entries.map((entry, place) => [entry.id, place + 1]));
  const marks: { field: number; span: Span; rule: number }[] = [];
  const entries = trace.entries.map(({ entry, outcome, stopped, tests }): TracedRule => {
    const rule = places.get(entry.id) as number;
    for (const found of tests.flatMap((test) => test.evidence)) {
      if (found.where.kind !== 'header') continue;
      for (const span of spansInField(message.fields[found.where.field]?.value ?? '', found)) {
        marks.push({ field: found.where.field, span, rule });
      }
    }
    return {
      number: rule,
      id: entry.id,
      name: entry.name,
      sentence: sentenceOf(entry),
      outcome,
      stopped,
      tests: tests.map(({ text, holds, evidence }) => ({ text, holds, evidence: evidence.map(evidenceWords) })),
    };
  });
  const body = await readText(raw, given.whole);
  return {
    fields: message.fields.slice(0, SHOWN_FIELDS).map((field, index) => {
      const value = field.value.slice(0, SHOWN_VALUE);
      const own = marks.filter((mark) => mark.field === index && mark.span.start < SHOWN_VALUE);
      return { name: field.name, value, marks: mergeMarks(own) };
    }),
    body: { ...body, text: body.text.slice(0, SHOWN_TEXT) },
    octets: given.whole,
    fate: fateView(trace.fate),
    error: trace.error,
    entries,
  };
}

/**
 * The evidence of an address test lies in the address, not in the field: the address is looked for in the field's
 * words. Where it cannot be found, as with odd quoting, the whole field is marked.
 */
function spansInField(value: string, found: Evidence): Span[] {
  if (found.value === value) return found.spans.filter((span) => span.end > span.start).map((span) => ({ ...span }));
  const at = value.toLowerCase().indexOf(found.value.toLowerCase());
  if (at < 0) return value === '' ? [] : [{ start: 0, end: value.length }];
  return found.spans
    .filter((span) => span.end > span.start)
    .map((span) => ({ start: at + span.start, end: at + span.end }));
}

/** Cuts overlapping marks at each other's ends, so that they can be drawn one after the other. */
function mergeMarks(marks: readonly { span: Span; rule: number }[]): FieldView['marks'] {
  const edges = [...new Set(marks.flatMap(({ span }) => [span.start, span.end]))].sort((a, b) => a - b);
  return edges.slice(0, -1).flatMap((start, index) => {
    const end = edges[index + 1] as number;
    const rules = marks.filter(({ span }) => span.start <= start && span.end >= end).map(({ rule }) => rule);
    const ends = marks.filter(({ span }) => span.end === end).map(({ rule }) => rule);
    return rules.length === 0 ? [] : [{ span: { start, end }, rules: inOrder(rules), ends: inOrder(ends) }];
  });
}

const inOrder = (numbers: readonly number[]): number[] => [...new Set(numbers)].sort((a, b) => a - b);

/** What made a test hold, in words. */
export function evidenceWords({ where, value, key, spans }: Evidence): string {
  const first = spans[0];
  const words = first ? value.slice(first.start, first.end) : value;
  const shown = words.length > 80 ? `${words.slice(0, 80)}…` : words;
  switch (where.kind) {
    case 'header':
      return spans.length === 0 ? `${where.name} is there` : `${where.name}: “${shown}” by “${key}”`;
    case 'envelope':
      return `envelope ${where.part}: “${shown}” by “${key}”`;
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
