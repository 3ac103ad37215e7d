import { keysOf } from '../../core/text/lookup';
import { document } from './document';
import type { RulesForm } from './form';
import { sieve, xml } from './script';
import { sheet } from './sheet';

/** All forms of rules; the first one that fits is taken. Another one is a file and a row here. */
export const RULES_FORMS = {
  sheet,
  json: document,
  xml,
  sieve,
} as const satisfies Readonly<Record<string, RulesForm>>;

export type RulesFormName = keyof typeof RULES_FORMS;

/** The form of a file of rules, by its name and its first octets. */
export function rulesForm(fileName: string, octets: Uint8Array): RulesFormName {
  const head = Buffer.from(octets.subarray(0, 512)).toString('latin1');
  return keysOf(RULES_FORMS).find((name) => RULES_FORMS[name].is(fileName, head)) ?? 'sieve';
}
