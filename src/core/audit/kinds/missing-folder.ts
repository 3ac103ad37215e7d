import type { Action, Chain, Fileinto, Rule } from '../../rules/rule';
import { INBOX } from '../../sieve/interpret/fate';
import { elementAt } from '../../text/lookup';
import type { AuditContext } from '../context';
import { foldersOf } from '../destinations';
import type { Finding, Repair } from '../finding';
import { rewrite, withoutRule } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * `missing-folder`: a rule files into a folder that no stored mail is in, so it does not exist as far as is known.
 * Servers then create the folder, keep the mail, or fail (RFC 5228 section 4.1), unless the rule itself creates the
 * folder (RFC 5490 section 3.2). Nothing is stated if all mail is in one folder: folders were not distinguished then.
 */
export function missingFolders({ each, chain, rules, mail }: AuditContext): Finding[] {
  const { folders } = mail.mail;
  if (folders === null || folders.size < 2 || mail.isOneFolder) return [];
  return each(rules, ({ entry, fired }) => {
    const filed = entry.actions.filter((action) => action.action === 'fileinto');
    const copies = filed.flatMap(({ copy, folder }) => (copy ? [folder] : []));
    const there = [...folders, ...filed.flatMap(({ create, folder }) => (create ? [folder] : []))];
    const missing = [...foldersOf(entry), ...copies].filter((folder) => !there.includes(folder));
    if (missing.length === 0) return [];
    const known = nearest(elementAt(missing, 0), folders);
    const repair = (title: string, change: (filing: Fileinto) => Action) =>
      otherwise(chain, entry, missing, title, change);
    return [
      {
        key: `missing-folder ${entry.id}`,
        kind: 'missing-folder',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'misplaced',
        claim: CLAIMS['missing-folder'](entry.name, missing),
        messages: [...fired.members()],
        witness: null,
        strength: null,
        repairs: [
          ...(known ? [repair(REPAIRS['existing folder'](entry.name, known), into(known))] : []),
          repair(REPAIRS['make folder'](entry.name, missing), made),
          repair(REPAIRS['leave in inbox'](entry.name), inInbox),
          ...withoutRule(chain, entry),
        ],
      } satisfies Finding,
    ];
  });
}

/** A folder of the same name elsewhere or spelled differently, else its parent; null if there is none. */
function nearest(folder: string, folders: ReadonlySet<string>): string | null {
  const last = (name: string) => name.split(/[/.]/).at(-1) ?? name;
  const plain = (name: string) =>
    name
      .normalize('NFKD')
      .replace(/[^\p{L}\p{N}]/gu, '')
      .toLowerCase();
  const others = [...folders].filter((name) => name !== INBOX);
  const parents = others.filter((name) => folder.startsWith(name) && /^[/.]/.test(folder.slice(name.length)));
  return (
    others.find((name) => plain(name) === plain(folder)) ??
    others.find((name) => plain(last(name)) === plain(last(folder))) ??
    parents.sort((a, b) => b.length - a.length)[0] ??
    null
  );
}

const into =
  (folder: string) =>
  (filing: Fileinto): Action => ({ ...filing, folder });
const made = (filing: Fileinto): Action => ({ ...filing, create: true });
const inInbox = ({ flags }: Fileinto): Action => ({ action: 'keep', flags });

/** Changes the filing into missing folders. */
function otherwise(
  chain: Chain,
  rule: Rule,
  missing: readonly string[],
  title: string,
  change: (filing: Fileinto) => Action,
): Repair {
  const actions = rule.actions.map((action) =>
    action.action === 'fileinto' && missing.includes(action.folder) ? change(action) : action,
  );
  return rewrite(chain, rule, { ...rule, actions }, title);
}
