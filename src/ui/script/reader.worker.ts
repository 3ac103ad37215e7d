import { type Rewritten, readRewrite } from '../../core/rules/rewrite';
import type { Chain } from '../../core/rules/rule';
import { sentenceOf } from '../../core/rules/sentence';
import { wordsOf } from '../../core/sieve/diagnostics';
import { LineIndex, type Span } from '../../core/text/span';

/** Reads the text during typing, in a worker, so that a large script does not block the page. */
export type ReaderQuestion =
  | { readonly kind: 'begin'; readonly chain: Chain; readonly ids: readonly string[] | null }
  | { readonly kind: 'read'; readonly number: number; readonly text: string };

export interface Reading {
  /** The number of the request that this result belongs to. */
  readonly number: number;
  readonly faults: readonly FaultLine[];
  readonly made: readonly MadeEntry[];
  readonly edit: Rewritten['edit'];
}

export interface FaultLine {
  readonly span: Span;
  readonly line: number;
  readonly column: number;
  readonly words: string;
  /** A missing require is added when the script is exported. */
  readonly slight: boolean;
}

/** An entry read from the text. */
export interface MadeEntry {
  readonly name: string;
  readonly kind: 'rule' | 'script';
  readonly on: boolean;
  readonly works: boolean;
  readonly sentence: string;
  /** Why the entry is not a rule; empty for rules. */
  readonly reason: string;
  readonly place: Span;
}

let begun: Extract<ReaderQuestion, { kind: 'begin' }> | null = null;

addEventListener('message', ({ data }: MessageEvent<ReaderQuestion>) => {
  if (data.kind === 'begin') begun = data;
  else if (begun) postMessage(read(begun.chain, begun.ids, data.number, data.text));
});

function read(chain: Chain, ids: readonly string[] | null, number: number, text: string): Reading {
  const { diagnostics, entries, edit } = readRewrite(chain, ids, text);
  const lines = new LineIndex(text);
  return {
    number,
    edit,
    faults: diagnostics.map((fault) => {
      const { line, column } = lines.position(fault.span.start);
      return { span: fault.span, line, column, words: wordsOf(fault), slight: fault.code === 'missing-require' };
    }),
    made: entries.map(({ entry, place }) => ({
      name: entry.name,
      kind: entry.kind,
      on: entry.on,
      works: entry.kind === 'rule' || entry.works,
      sentence: sentenceOf(entry),
      reason: entry.kind === 'script' ? entry.reason : '',
      place,
    })),
  };
}
