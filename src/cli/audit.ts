import type { z } from 'zod';
import { auditChain } from '../core/audit/catalogue';
import { textOf } from '../core/audit/finding';
import { MailGatherer, trafficIn } from '../core/audit/stored';
import { evaluateAtoms } from '../core/flow/atoms';
import { amongTraffic } from '../core/flow/conditions';
import { runFlow } from '../core/flow/flow';
import { atomsOf } from '../core/flow/program';
import { decodeText } from '../core/mail/charset';
import { readMessages, readSoundChain } from './files';
import { clockOf, columnsOfFile } from './flow';
import type { auditOptions } from './options';

/** Prints the findings and the flow of the rules as one JSON object. Sent mail is left out unless asked for. */
export async function audit(options: z.infer<typeof auditOptions>): Promise<number> {
  const chain = await readSoundChain(options.rules);
  const gatherer = new MailGatherer();
  const clock = clockOf(options.now);
  const path = options.messages ?? null;
  const needed = atomsOf(chain);
  const { columns } = await columnsOfFile(
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
  const { findings: found } = auditChain({ chain, flow, atoms, mail }, { clock });
  const texts = await readTexts(path, new Set(found.flatMap(({ messages }) => messages.slice(0, 1))));
  const findings = found.map(({ kind, rules, certainty, messages, witness, claim }) => ({
    kind,
    rules: rules.map((id) => names.get(id)),
    certainty,
    messages,
    witness: witness ? textOf(witness) : (texts.get(messages[0] ?? -1) ?? null),
    summary: claim,
  }));
  const rules = flow.entries.map(({ entry, reached, held, fired, stopped }) => ({
    name: entry.name,
    reached: reached.count(),
    held: held.count(),
    fired: fired.count(),
    stopped: stopped.count(),
  }));
  process.stdout.write(`${JSON.stringify({ findings, rules })}\n`);
  return 0;
}

async function readTexts(path: string | null, wanted: ReadonlySet<number>): Promise<Map<number, string>> {
  const texts = new Map<number, string>();
  if (path === null || wanted.size === 0) return texts;
  let index = 0;
  for await (const { raw } of readMessages(path, [])) {
    if (wanted.has(index)) texts.set(index, decodeText(raw));
    index++;
  }
  return texts;
}
