import { z } from 'zod';
import { readWrittenAction, readWrittenTest } from '../core/rules/as-written';
import type { Chain } from '../core/rules/rule';
import { sentenceOf } from '../core/rules/sentence';
import { chainShape } from './chain-shape';

/**
 * The form in which chains and edits are written: 0 kept filing with `:create` word for word, so that no finding looked at where such
 * rules file; 1 kept all tests and actions word for word that rules now tell apart.
 */
export const CHAIN_FORMAT = 2;

/** A chain, edits, or whatever else holds rules, in the form of today; what cannot be read stays as it is. */
export const inFormOfToday = <T>(value: T): T => JSON.parse(JSON.stringify(value), ofToday);

function ofToday(_: string, value: unknown): unknown {
  if (typeof value !== 'object' || value === null || !('text' in value) || typeof value.text !== 'string') return value;
  if ('test' in value && value.test === 'sieve') {
    const reading = readWrittenTest(value.text);
    return reading.ok && reading.said.kind === 'leaf' ? reading.said.test : value;
  }
  if ('action' in value && value.action === 'sieve') {
    const reading = readWrittenAction(value.text);
    return reading.ok ? reading.said : value;
  }
  return value;
}

/** Rules as a JSON document: a chain by itself, or the one that a whole audit holds. */

const chainDocument = z.intersection(
  z.object({ format: z.literal('ysomeris-chain'), version: z.literal(1) }),
  chainShape,
);
const auditDocument = z.object({ format: z.literal('ysomeris-audit'), version: z.literal(1), draft: chainShape });

/** The document of a chain; each entry has its sentence, which is not read back. */
export function chainAsDocument({ entries, closing, lists }: Chain): string {
  const told = entries.map((entry) => ({ ...entry, sentence: sentenceOf(entry) }));
  const document = { format: 'ysomeris-chain', version: 1, entries: told, closing, ...(lists ? { lists } : {}) };
  return `${JSON.stringify(document, null, 2)}\n`;
}

/** Whether a document, by its first octets, is one of a chain by itself. */
export const isChainDocument = (head: string): boolean => head.includes('"ysomeris-chain"');

/** The rules of a document that was parsed; the reason in plain words where it holds none. */
export function chainFromDocument(
  data: unknown,
): { readonly ok: true; readonly chain: Chain } | { readonly ok: false; readonly reason: string } {
  const head = z.object({ format: z.string(), version: z.unknown() }).safeParse(data);
  const format = head.success ? head.data.format : '';
  if (format !== 'ysomeris-chain' && format !== 'ysomeris-audit') return { ok: false, reason: 'it holds no rules' };
  if (head.data?.version !== 1) {
    return { ok: false, reason: `it is of version ${String(head.data?.version)}; version 1 is read here` };
  }
  const today = inFormOfToday(data);
  const found = format === 'ysomeris-chain' ? chainDocument.safeParse(today) : auditDocument.safeParse(today);
  if (found.success) {
    const { entries, closing, lists } = 'draft' in found.data ? found.data.draft : found.data;
    return { ok: true, chain: { entries, closing, ...(lists ? { lists } : {}) } };
  }
  const [issue] = found.error.issues;
  return { ok: false, reason: `it is damaged at ${issue?.path.join('.') || 'its head'}: ${issue?.message ?? ''}` };
}
