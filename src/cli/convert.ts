import type { z } from 'zod';
import { DEFAULT_CHOICES, rewriteFor } from '../core/handover/rewrite';
import { capabilitiesIn, NO_LIMITS, READY_TARGETS, type Target } from '../core/handover/target';
import { dependentsOn } from '../core/rules/context';
import type { Chain } from '../core/rules/rule';
import { RULES_FORMS } from '../files/rules/forms';
import { readRulesFile } from './files';
import { CliError, type convertOptions } from './options';

/**
 * Writes a chain in another form, said to a target where one is given; what cannot be converted and what it costs is told on
 * standard error, one JSON object a line. Sieve and XML are written from the rules, so that they say what the rules do; JSON holds
 * the rules as they are, with sentences; the sheet is CSV with a row for each rule.
 */
export async function convert(options: z.infer<typeof convertOptions>): Promise<number> {
  const { chain: given, faults } = await readRulesFile(options.rules);
  for (const fault of faults) tell({ kind: 'fault', message: fault });
  for (const entry of given.entries) {
    if (entry.kind === 'rule' || entry.works) continue;
    tell({ kind: 'loss', rule: entry.name, reason: entry.reason, text: entry.text });
  }
  const chain = options.target === undefined ? given : saidTo(given, targetOf(options.target));
  if (options.to === 'sheet') tellLostInSheet(chain);
  process.stdout.write(RULES_FORMS[options.to].write(chain));
  return faults.length === 0 ? 0 : 1;
}

/** Script blocks have no row in a sheet, and take with them what later rules see of them. */
function tellLostInSheet(chain: Chain): void {
  const blocks = chain.entries.filter(({ kind }) => kind === 'script');
  for (const { name } of blocks) tell({ kind: 'loss', rule: name, reason: 'a script block has no row in a sheet' });
  for (const { name } of dependentsOn(chain, new Set(blocks.map(({ id }) => id)))) {
    tell({ kind: 'cost', rule: name, reason: 'it looks at headers or variables that a script block changes' });
  }
}

const tell = (line: object): boolean => process.stderr.write(`${JSON.stringify(line)}\n`);

/** What cannot be said at all is left out, and told as a loss. */
function saidTo(chain: Chain, target: Target): Chain {
  const { chain: said, costs } = rewriteFor(chain, target, DEFAULT_CHOICES);
  for (const { name, without, words, kind } of costs) {
    tell({ kind: kind === 'unsayable' ? 'loss' : 'cost', rule: name, without, reason: words });
  }
  return said;
}

/** A ready target by its name, or the capabilities of a server. */
function targetOf(text: string): Target {
  const ready = READY_TARGETS.find(({ id }) => id === text.trim().toLowerCase());
  if (ready) return ready;
  const capabilities = text.trim() === '' ? [] : capabilitiesIn(text);
  if (!capabilities) throw new CliError(`--target ${text}: none of this is a capability that is known`);
  return { id: 'own', capabilities, limits: NO_LIMITS };
}
