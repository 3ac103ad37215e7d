import { z } from 'zod';
import { readWrittenAction, readWrittenTest } from '../core/rules/as-written';
import type { Chain } from '../core/rules/rule';
import { sentenceOf } from '../core/rules/sentence';
import { chainShape } from './chain-shape';

/**
 * The version of the JSON of chains and edits. 0 kept filing with `:create` word for word, so findings missed those
 * folders; 1 kept all tests and actions word for word that rules now have kinds for.
 */
export const CHAIN_FORMAT = 2;

/**
 * Converts a chain, edits, or anything else that contains rules to the current version; unreadable parts stay
 * unchanged.
 */
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

/** Rules as a JSON document: a chain alone, or the draft of an exported audit. */

const chainDocument = z.intersection(
  z.object({ format: z.literal('ysomeris-chain'), version: z.literal(1) }),
  chainShape,
);
const auditDocument = z.object({ format: z.literal('ysomeris-audit'), version: z.literal(1), draft: chainShape });

/** Writes the document of a chain; each entry includes its sentence, which is ignored when read back. */
export function chainAsDocument({ entries, closing, lists, profile }: Chain): string {
  const told = entries.map((entry) => ({ ...entry, sentence: sentenceOf(entry, profile) }));
  const document = {
    format: 'ysomeris-chain',
    version: 1,
    entries: told,
    closing,
    ...(lists ? { lists } : {}),
    ...(profile ? { profile } : {}),
  };
  return `${JSON.stringify(document, null, 2)}\n`;
}

/** Whether the first octets of a document are those of a chain alone. */
export const isChainDocument = (head: string): boolean => head.includes('"ysomeris-chain"');

/** Reads the rules of a parsed document, or returns the reason why it contains none. */
export function chainFromDocument(
  data: unknown,
): { readonly ok: true; readonly chain: Chain } | { readonly ok: false; readonly reason: string } {
  const head = z.object({ format: z.string(), version: z.unknown() }).safeParse(data);
  const format = head.success ? head.data.format : '';
  if (format !== 'ysomeris-chain' && format !== 'ysomeris-audit') return { ok: false, reason: 'it contains no rules' };
  if (head.data?.version !== 1) {
    return { ok: false, reason: `it has version ${String(head.data?.version)}; only version 1 can be read` };
  }
  const today = inFormOfToday(data);
  const found = format === 'ysomeris-chain' ? chainDocument.safeParse(today) : auditDocument.safeParse(today);
  if (found.success) {
    const { entries, closing, lists, profile } = 'draft' in found.data ? found.data.draft : found.data;
    return { ok: true, chain: { entries, closing, ...(lists ? { lists } : {}), ...(profile ? { profile } : {}) } };
  }
  const [issue] = found.error.issues;
  return { ok: false, reason: `it is damaged at ${issue?.path.join('.') || 'its head'}: ${issue?.message ?? ''}` };
}
