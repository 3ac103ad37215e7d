import { Bitmap } from '../../flow/bitmap';
import type { FolderUse } from '../../mail/places';
import type { Action, Rule } from '../../rules/rule';
import { INBOX } from '../../sieve/interpret/fate';
import type { AuditContext, RuleFlow } from '../context';
import { foldersOf } from '../destinations';
import type { Finding, Repair } from '../finding';
import { freeId, replace, rewrite } from '../repairs';
import { fewSenders, isFrom } from '../senders';
import { CLAIMS, REPAIRS, STRENGTHS } from '../wording';

/** An archive tells when mail was put away and not what it is; the others tell what it was not wanted for. */
const TELLS_NOTHING: ReadonlySet<FolderUse | null> = new Set(['archive', 'trash', 'junk', 'drafts']);

const LEAST = 3;
const SHARE = 0.1;

/**
 * `placement-disagrees`: the user keeps mail of a rule in another folder than the rule's: at least three messages, and
 * a tenth of those it acts on. Mail in the inbox does not count, since it may be older than the rule; nor does mail
 * where another rule files it, or where `TELLS_NOTHING`. Nothing is stated if all mail is in one folder: folders were not
 * distinguished then.
 */
export function placements(context: AuditContext): Finding[] {
  if (context.mail.isOneFolder) return [];
  return context.each(context.rules, (rule) => {
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
    if (TELLS_NOTHING.has(mail.purposeOf(folder))) continue;
    // Another rule files it there.
    if (stored.flow.fates.folders.get(folder)?.messages.has(number)) continue;
    const there = elsewhere.get(folder);
    if (there) there.push(number);
    else elsewhere.set(folder, [number]);
  }
  return elsewhere;
}

function findingOf(
  context: AuditContext,
  rule: RuleFlow,
  folder: string,
  messages: readonly number[],
  whole: number,
): Finding {
  const { chain } = context;
  const { entry } = rule;
  const inFolder = { ...entry, actions: filingInto(entry, folder) };
  return {
    key: `placement-disagrees ${entry.id}`,
    kind: 'placement-disagrees',
    rules: [entry.id],
    certainty: 'observed',
    consequence: 'misplaced',
    claim: CLAIMS['placement-disagrees'](entry.name, foldersOf(entry), messages.length, folder),
    messages,
    witness: null,
    strength: { part: messages.length, whole, words: STRENGTHS['placement-disagrees'] },
    repairs: [
      ...split(context, rule, folder, messages),
      rewrite(chain, entry, inFolder, REPAIRS['all into'](entry.name, folder)),
    ],
  };
}

const filingInto = ({ actions }: Rule, folder: string): Action[] =>
  actions.map((action) => (action.action === 'fileinto' && !action.copy ? { ...action, folder } : action));

/** Splits the rule by senders: a new rule before it for those whose mail is kept elsewhere. */
function split(
  { chain, mail }: AuditContext,
  { entry, place, fired }: RuleFlow,
  folder: string,
  messages: readonly number[],
): Repair[] {
  const senders = fewSenders(Bitmap.of(fired.size, messages), mail);
  const others = [...fired.members()].some((number) => !senders.includes(mail.message(number).sender));
  const next = chain.entries[place + 1];
  const linked = entry.link === 'otherwise' || (next?.kind === 'rule' && next.link === 'otherwise');
  if (senders.length === 0 || !others || linked) return [];
  const from = isFrom(senders);
  const first: Rule = {
    ...entry,
    id: freeId(`${entry.id}.1`, chain),
    name: `${entry.name}: ${folder}`,
    tests: { kind: 'all', children: [from, entry.tests] },
    actions: filingInto(entry, folder),
  };
  const rest: Rule = { ...entry, unless: [...entry.unless, from] };
  const title = REPAIRS['a rule of its own'](entry.name, senders, folder);
  return [{ title, edits: [replace(chain, entry, [first, rest])] }];
}
