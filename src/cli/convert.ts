import type { z } from 'zod';
import { DEFAULT_CHOICES, rewriteFor } from '../core/handover/rewrite';
import { capabilitiesIn, NO_LIMITS, READY_TARGETS, type Target } from '../core/handover/target';
import { dependentsOn } from '../core/rules/context';
import type { Chain } from '../core/rules/rule';
import { sheetOf } from '../core/rules/sheet';
import { sieveFromChain } from '../core/rules/to-sieve';
import { writeXml } from '../core/sieve/xml';
import { chainAsDocument } from '../files/chain-document';
import { writeCsv } from '../files/csv';
import { CliError } from './errors';
import { readScriptFile } from './files';
import type { convertOptions } from './options';

/**
 * Writes a chain in another form, said to a target where one is given; what cannot be converted and what it costs is told on
 * standard error, one JSON object a line. Sieve and XML are written from the rules, so that they say what the rules do; JSON holds
 * the rules as they are, with sentences; the sheet is CSV with a row for each rule.
 */
export async function convert(options: z.infer<typeof convertOptions>): Promise<number> {
  const { read, faults } = await readScriptFile(options.rules);
  for (const fault of faults) tell({ kind: 'fault', message: fault });
  for (const entry of read.chain.entries) {
    if (entry.kind === 'rule' || entry.works) continue;
    tell({ kind: 'loss', rule: entry.name, reason: entry.reason, text: entry.text });
  }
  const chain = options.target === undefined ? read.chain : saidTo(read.chain, targetOf(options.target));
  const written = sieveFromChain(chain);
  switch (options.to) {
    case 'sieve':
      process.stdout.write(written.text);
      break;
    case 'xml':
      process.stdout.write(writeXml({ ...written.script, source: written.text }));
      break;
    case 'json':
      process.stdout.write(chainAsDocument(chain));
      break;
    case 'sheet':
      for (const { name, kind } of chain.entries) {
        if (kind === 'script') tell({ kind: 'loss', rule: name, reason: 'a script block has no row in a sheet' });
      }
      for (const { name } of dependentsOn(
        chain,
        new Set(chain.entries.flatMap(({ kind, id }) => (kind === 'script' ? [id] : []))),
      )) {
        tell({ kind: 'cost', rule: name, reason: 'it looks at headers or variables that a script block changes' });
      }
      process.stdout.write(writeCsv(sheetOf(chain)));
      break;
    default:
      options.to satisfies never;
  }
  return faults.length === 0 ? 0 : 1;
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
