import { auditChain } from '../core/audit/catalogue';
import { textOf } from '../core/audit/finding';
import { MailGatherer } from '../core/audit/from-messages';
import { decodeText } from '../core/mail/charset';
import { readMessages, readSoundChain } from './files';
import { clockOf, flowOfFile } from './flow';
import { auditOptions, readOptions } from './options';

/** Writes the findings and the flow of the rules as one JSON object. */
export async function audit(args: string[]): Promise<number> {
  const options = readOptions(args, auditOptions);
  const chain = await readSoundChain(options.rules);
  const gatherer = new MailGatherer();
  const clock = clockOf(options.now);
  const path = options.messages ?? null;
  const { flow, atoms } = await flowOfFile(chain, path, options.me, clock, (found) => gatherer.add(found));
  const names = new Map(chain.entries.map((entry) => [entry.id, entry.name]));
  const { findings: found } = auditChain({ chain, flow, atoms, mail: gatherer.mail(options.me) }, { clock });
  const texts = await readTexts(path, new Set(found.map(({ messages }) => messages[0] as number)));
  const findings = found.map(({ kind, rules, certainty, messages, witness, claim }) => ({
    kind,
    rules: rules.map((id) => names.get(id)),
    certainty,
    messages,
    witness: witness ? textOf(witness) : (texts.get(messages[0] as number) ?? null),
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
