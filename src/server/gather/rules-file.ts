import { chainFromSieve } from '../../core/rules/from-sieve';
import type { Chain } from '../../core/rules/rule';
import { chainFromSheet, isSheet } from '../../core/rules/sheet';
import { decodeScript } from '../../core/sieve/decode';
import { wordsOf } from '../../core/sieve/diagnostics';
import { scriptText } from '../../core/sieve/script-text';
import { LineIndex } from '../../core/text/span';
import { chainFromDocument } from '../../files/chain-document';
import { limitFault } from '../../files/chain-shape';
import { decodeText, readCsv } from '../../files/csv';
import { fileKind } from '../../files/mail/formats';
import { Refusal } from '../audits/audits';
import { faultsOf } from '../changes/changes';

export const isSheetName = (fileName: string): boolean => /\.(csv|tsv)$/i.test(fileName);

export interface RulesRead {
  readonly chain: Chain;
  /** As it is kept for being looked at. */
  readonly source: string;
  readonly faults: readonly RulesFault[];
}

/** What is wrong at a place of a file. */
export interface RulesFault {
  /** The place, and what is wrong there. */
  readonly words: string;
  /** The entry of the chain that it concerns, by its place; null where it is none. */
  readonly entry: number | null;
}

/** Faults that are kept of a file: what is none of its form may have one in each word. */
const MOST_FAULTS = 1000;

function told<T>(all: readonly T[], tell: (fault: T) => RulesFault): RulesFault[] {
  const first = all.slice(0, MOST_FAULTS).map(tell);
  const left = all.length - first.length;
  return left > 0 ? [...first, { words: `and ${left} more`, entry: null }] : first;
}

/** Rules as a script, in plain form or in XML, or as a sheet. Throws a refusal for what holds none, or exceeds a limit. */
export function readRules(fileName: string, bytes: Uint8Array): RulesRead {
  const read = readForm(fileName, bytes);
  const limit = limitFault(read.chain);
  if (limit !== null) throw new Refusal(`“${fileName}” is beyond a limit: ${limit}.`, 413);
  return read;
}

function readForm(fileName: string, bytes: Uint8Array): RulesRead {
  if (isSheetName(fileName)) return readSheet(fileName, decodeText(bytes));
  if (fileKind(bytes) === 'document') return readDocument(fileName, decodeText(bytes));
  const { source: given, diagnostics } = decodeScript(bytes);
  const text = scriptText(given);
  if (!text.ok) {
    throw new Refusal(`“${fileName}” is no script in XML: line ${text.line}, ${text.message}.`, 422);
  }
  const { source } = text;
  const read = chainFromSieve(source);
  const all = [...diagnostics, ...read.diagnostics].sort((a, b) => a.span.start - b.span.start);
  const lines = new LineIndex(source);
  const faults = told(all, (fault) => {
    const entry = read.places.findIndex(({ start, end }) => start <= fault.span.start && fault.span.start < end);
    const { line, column } = lines.position(fault.span.start);
    return { words: `${line}:${column}: ${wordsOf(fault)}`, entry: entry < 0 ? null : entry };
  });
  return { chain: read.chain, source, faults };
}

function readDocument(fileName: string, source: string): RulesRead {
  const found = chainFromDocument(maybeJson(source));
  if (!found.ok) throw new Refusal(`“${fileName}” cannot be read: ${found.reason}.`, 422);
  const [fault] = faultsOf(found.chain);
  if (fault !== undefined) throw new Refusal(`“${fileName}” cannot be read: ${fault}.`, 422);
  return { chain: found.chain, source, faults: [] };
}

function maybeJson(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return null;
  }
}

function readSheet(fileName: string, source: string): RulesRead {
  const { rows, odd } = readCsv(source);
  if (!isSheet(rows)) {
    throw new Refusal(
      `“${fileName}” has no column “Rule”: its columns can be told what they mean on the page where rules are typed in.`,
      422,
    );
  }
  const { chain, faults } = chainFromSheet(rows);
  const words = [...odd, ...faults.map((fault) => `row ${fault.row + 1}, ${fault.column}: ${fault.words}`)];
  return { chain, source, faults: told(words, (one) => ({ words: one, entry: null })) };
}
