import { sentenceOf } from '../core/rules/sentence';
import { sieveFromChain } from '../core/rules/to-sieve';
import { writeXml } from '../core/sieve/xml';
import { readScriptFile } from './files';
import { convertOptions, readOptions } from './options';

/**
 * Writes a chain in another form; what cannot be converted is told on standard error, one JSON object a line. Sieve and
 * XML are written from the rules, so that they say what the rules do; JSON holds the rules as they are, with sentences.
 */
export async function convert(args: string[]): Promise<number> {
  const options = readOptions(args, convertOptions);
  const { read, faults } = await readScriptFile(options.rules);
  for (const fault of faults) process.stderr.write(`${JSON.stringify({ kind: 'fault', message: fault })}\n`);
  for (const entry of read.chain.entries) {
    if (entry.kind === 'rule' || entry.works) continue;
    const loss = { kind: 'loss', rule: entry.name, reason: entry.reason, text: entry.text };
    process.stderr.write(`${JSON.stringify(loss)}\n`);
  }
  const written = sieveFromChain(read.chain);
  switch (options.to) {
    case 'sieve':
      process.stdout.write(written.text);
      break;
    case 'xml':
      process.stdout.write(writeXml({ ...written.script, source: written.text }));
      break;
    case 'json': {
      const entries = read.chain.entries.map((entry) => ({ ...entry, sentence: sentenceOf(entry) }));
      process.stdout.write(`${JSON.stringify({ format: 'ysomeris-chain', version: 1, entries }, null, 2)}\n`);
      break;
    }
    default:
      options.to satisfies never;
  }
  return faults.length === 0 ? 0 : 1;
}
