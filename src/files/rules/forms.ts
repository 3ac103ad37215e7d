import { keysOf } from '../../core/text/lookup';
import { document } from './document';
import type { RulesForm } from './form';
import { sieve, xml } from './script';
import { sentences } from './sentences';
import { sheet } from './sheet';

/** All formats of rules; the first one that fits is used. To add one, add a file and a row here. */
export const RULES_FORMS = {
  sheet,
  json: document,
  xml,
  sentences,
  sieve,
} as const satisfies Readonly<Record<string, RulesForm>>;

export type RulesFormName = keyof typeof RULES_FORMS;

/** The format of a file of rules, from its name and first octets. */
export function rulesForm(fileName: string, octets: Uint8Array): RulesFormName {
  const head = Buffer.from(octets.subarray(0, 512)).toString('latin1');
  return keysOf(RULES_FORMS).find((name) => RULES_FORMS[name].is(fileName, head)) ?? 'sieve';
}
