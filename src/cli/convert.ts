import type { z } from 'zod';
import { DEFAULT_CHOICES, rewriteFor } from '../core/handover/rewrite';
import { capabilitiesIn, NO_LIMITS, READY_TARGETS, type Target } from '../core/handover/target';
import { dependentsOn } from '../core/rules/context';
import type { Chain } from '../core/rules/rule';
import { RULES_FORMS } from '../files/rules/forms';
import { readRulesFile, underProfile } from './files';
import { CliError, type convertOptions } from './options';

/**
 * Prints a chain in another format, rewritten for a target if one is given. Losses and differences go to standard
 * error, one JSON object a line. Sieve and XML are written from the rules; JSON holds the rules with their sentences;
 * the sheet is CSV with a row for each rule; sentences are one a line.
 */
export async function convert(options: z.infer<typeof convertOptions>): Promise<number> {
  const { chain: read, faults } = await readRulesFile(options.rules);
  const given = await underProfile(read, options.profile);
  for (const fault of faults) tell({ kind: 'fault', message: fault });
  for (const entry of given.entries) {
    if (entry.kind === 'rule' || entry.works) continue;
    tell({ kind: 'loss', rule: entry.name, reason: entry.reason, text: entry.text });
  }
  const chain = options.target === undefined ? given : saidTo(given, targetOf(options.target));
  if (options.to === 'sheet' || options.to === 'sentences') tellLostBlocks(chain, WHERE[options.to]);
  if (options.to === 'sentences') tellLostTags(chain);
  process.stdout.write(RULES_FORMS[options.to].write(chain));
  return faults.length === 0 ? 0 : 1;
}

const WHERE = { sheet: 'a script block has no row in a sheet', sentences: 'a script block has no sentence' } as const;

/** Only rules have rows and sentences; the effect of script blocks on later rules is lost with them. */
function tellLostBlocks(chain: Chain, reason: string): void {
  const blocks = chain.entries.filter(({ kind }) => kind === 'script');
  for (const { name } of blocks) tell({ kind: 'loss', rule: name, reason });
  for (const { name } of dependentsOn(chain, new Set(blocks.map(({ id }) => id)))) {
    tell({ kind: 'cost', rule: name, reason: 'it tests header fields or variables that a script block changes' });
  }
}

/** Sentences say what a rule does, and tags do nothing. */
function tellLostTags({ entries }: Chain): void {
  for (const entry of entries) {
    if (entry.kind !== 'rule' || !entry.tags?.length) continue;
    tell({ kind: 'loss', rule: entry.name, reason: `its tags are not part of a sentence: ${entry.tags.join(', ')}` });
  }
}

const tell = (line: object): boolean => process.stderr.write(`${JSON.stringify(line)}\n`);

/** What the target cannot express at all is left out and reported as a loss. */
function saidTo(chain: Chain, target: Target): Chain {
  const { chain: said, costs } = rewriteFor(chain, target, DEFAULT_CHOICES);
  for (const { name, without, words, kind } of costs) {
    tell({ kind: kind === 'unsayable' ? 'loss' : 'cost', rule: name, without, reason: words });
  }
  return said;
}

/** A preset target by its name, or the capabilities of a server. */
function targetOf(text: string): Target {
  const ready = READY_TARGETS.find(({ id }) => id === text.trim().toLowerCase());
  if (ready) return ready;
  const capabilities = text.trim() === '' ? [] : capabilitiesIn(text);
  if (!capabilities)
    throw new CliError(
      `--target ${text}: contains no known capability; use core, common, or a list such as "fileinto copy"`,
    );
  return { id: 'own', capabilities, limits: NO_LIMITS };
}
