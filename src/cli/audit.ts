import type { z } from 'zod';
import { auditChain } from '../core/audit/catalogue';
import { textOf } from '../core/audit/finding';
import { isConfirmed } from '../core/audit/grouping';
import { MailGatherer, trafficIn } from '../core/audit/stored';
import { evaluateAtoms } from '../core/flow/atoms';
import { amongTraffic } from '../core/flow/conditions';
import { runFlow } from '../core/flow/flow';
import { keyUses } from '../core/flow/key-uses';
import { atomsOf } from '../core/flow/program';
import { decodeText } from '../core/mail/charset';
import { readMessages, readSoundChain } from './files';
import { clockOf, columnsOfFile } from './flow';
import type { auditOptions } from './options';

/**
 * Prints the findings and the flow of the rules as one JSON object. Sent mail is left out unless asked for; without
 * mail, so are findings that are possible only.
 */
export async function audit(options: z.infer<typeof auditOptions>): Promise<number> {
  const chain = await readSoundChain(options.rules, options);
  const gatherer = new MailGatherer();
  const clock = clockOf(options.now);
  const path = options.messages ?? null;
  const needed = atomsOf(chain);
  const columns = await columnsOfFile(
    needed,
    path,
    options.me,
    (found) => gatherer.add(found),
    (folder) => folder !== '' && gatherer.addFolder(folder),
  );
  const mail = gatherer.mail(options.me);
  const traffic = options['with-sent'] ? null : trafficIn(mail);
  const atoms = amongTraffic(
    evaluateAtoms(needed, columns, () => {}, clock),
    traffic,
  );
  const flow = runFlow(chain, atoms, columns.count);
  const names = new Map(chain.entries.map((entry) => [entry.id, entry.name]));
  const { findings: found, notes } = auditChain(
    { chain, flow, atoms, mail, usesOf: (wanted) => keyUses(wanted, columns) },
    { clock },
  );
  const texts = await readTexts(path, new Set(found.flatMap(({ messages }) => messages.slice(0, 1))));
  const printed = path === null && !options.all ? found.filter(isConfirmed) : found;
  const findings = printed.map((finding) => ({
    kind: finding.kind,
    rules: finding.rules.map((id) => names.get(id)),
    certainty: finding.certainty,
    assumes: finding.assumes ?? [],
    confirmed: isConfirmed(finding),
    messages: finding.messages,
    witness: finding.witness ? textOf(finding.witness) : (texts.get(finding.messages[0] ?? -1) ?? null),
    summary: finding.claim,
  }));
  const rules = flow.entries.map(({ entry, reached, held, fired, stopped }) => ({
    name: entry.name,
    reached: reached.count(),
    held: held.count(),
    fired: fired.count(),
    stopped: stopped.count(),
  }));
  const possibleOnly = found.filter((finding) => !isConfirmed(finding)).length;
  process.stdout.write(`${JSON.stringify({ findings, possibleOnly, notes, rules })}\n`);
  const left = found.length - printed.length;
  if (left > 0) process.stderr.write(`${left} findings that are possible only are left out; --all prints them\n`);
  return 0;
}

async function readTexts(path: string | null, wanted: ReadonlySet<number>): Promise<Map<number, string>> {
  const texts = new Map<number, string>();
  if (path === null || wanted.size === 0) return texts;
  let index = 0;
  for await (const some of readMessages(path)) {
    for (const { raw } of some) {
      if (wanted.has(index)) texts.set(index, decodeText(raw));
      index++;
    }
  }
  return texts;
}
