import { readWrittenAction, readWrittenTest } from '../core/rules/as-written';

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
