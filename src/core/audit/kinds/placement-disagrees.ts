import { INBOX } from '../../sieve/interpret/fate';
import type { AuditContext, RuleFlow } from '../context';
import { foldersOf } from '../destinations';
import { counted, listed, rewrite } from '../edits';
import type { Finding } from '../finding';

const LEAST = 3;
const SHARE = 0.1;

/**
 * `placement-disagrees`: the user keeps mail of a rule in another folder than the rule puts it into: three messages at
 * least, and a tenth of what the rule acts on. What lies in the inbox says nothing, since it may be older than the rule;
 * nor does what lies where another rule puts it.
 */
export function placements(context: AuditContext): Finding[] {
  return context.rules.flatMap((rule) => {
    const folders = foldersOf(rule.entry);
    if (folders.length === 0) return [];
    const elsewhere = byFolder(context, rule, folders);
    const [most] = [...elsewhere].sort(([, a], [, b]) => b.length - a.length);
    if (!most) return [];
    const [folder, messages] = most;
    const whole = rule.fired.count();
    if (messages.length < LEAST || messages.length < whole * SHARE) return [];
    return [findingOf(context, rule, folder, messages, whole)];
  });
}

function byFolder(
  { mail, stored }: AuditContext,
  { fired }: RuleFlow,
  folders: readonly string[],
): Map<string, number[]> {
  const elsewhere = new Map<string, number[]>();
  for (const number of fired.without(mail.sent).members()) {
    const { folder } = mail.message(number);
    if (folder === null || folder === INBOX || folders.includes(folder)) continue;
    // Another rule puts it there.
    if (stored.flow.fates.folders.get(folder)?.messages.has(number)) continue;
    const there = elsewhere.get(folder);
    if (there) there.push(number);
    else elsewhere.set(folder, [number]);
  }
  return elsewhere;
}

function findingOf(
  { chain }: AuditContext,
  { entry }: RuleFlow,
  folder: string,
  messages: readonly number[],
  whole: number,
): Finding {
  const actions = entry.actions.map((action) =>
    action.action === 'fileinto' && !action.copy ? { ...action, folder } : action,
  );
  return {
    key: `placement-disagrees ${entry.id}`,
    kind: 'placement-disagrees',
    rules: [entry.id],
    certainty: 'observed',
    consequence: 'misplaced',
    claim: `“${entry.name}” files into ${listed(foldersOf(entry))}, but you keep ${counted(messages.length, 'message')} of it in “${folder}”.`,
    messages,
    witness: null,
    strength: { part: messages.length, whole, words: 'messages it acts on lie there' },
    repairs: [rewrite(chain, entry, { ...entry, actions }, `Let “${entry.name}” file into “${folder}”`)],
  };
}
