import type { Chain, Rule } from '../../rules/rule';
import { INBOX } from '../../sieve/interpret/fate';
import type { AuditContext } from '../context';
import { foldersOf } from '../destinations';
import { listed, rewrite, withoutRule } from '../edits';
import type { Finding, Repair } from '../finding';

/**
 * `missing-folder`: a rule files into a folder in which no stored mail lies, so that it does not exist as far as is known.
 * What a server does then is its own affair (RFC 5228 section 4.1): it makes the folder, keeps the mail, or fails; unless the
 * rule itself has the folder made (RFC 5490 section 3.2). Nothing is
 * stated where only one folder is known, since folders were then not told apart.
 */
export function missingFolders({ chain, rules, mail }: AuditContext): Finding[] {
  const { folders } = mail.mail;
  if (folders === null || folders.size < 2) return [];
  return rules.flatMap(({ entry, fired }) => {
    const filed = entry.actions.filter((action) => action.action === 'fileinto');
    const copies = filed.flatMap(({ copy, folder }) => (copy ? [folder] : []));
    const made = filed.flatMap(({ create, folder }) => (create ? [folder] : []));
    const missing = [...foldersOf(entry), ...copies].filter((folder) => !folders.has(folder) && !made.includes(folder));
    if (missing.length === 0) return [];
    const known = nearest(missing[0] as string, folders);
    return [
      {
        key: `missing-folder ${entry.id}`,
        kind: 'missing-folder',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'misplaced',
        claim: `“${entry.name}” files into ${listed(missing)}, and there is no such folder in the mail that was brought in.`,
        messages: [...fired.members()],
        witness: null,
        strength: null,
        repairs: [
          ...(known ? [elsewhere(chain, entry, missing, known)] : []),
          beingMade(chain, entry, missing),
          inInbox(chain, entry, missing),
          ...withoutRule(chain, entry),
        ],
      } satisfies Finding,
    ];
  });
}

/** The same name elsewhere or written otherwise, else the folder that it would lie in; null where there is none. */
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

function elsewhere(chain: Chain, rule: Rule, missing: readonly string[], folder: string): Repair {
  const actions = rule.actions.map((action) =>
    action.action === 'fileinto' && missing.includes(action.folder) ? { ...action, folder } : action,
  );
  return rewrite(chain, rule, { ...rule, actions }, `Let “${rule.name}” file into “${folder}”, which exists`);
}

function beingMade(chain: Chain, rule: Rule, missing: readonly string[]): Repair {
  const actions = rule.actions.map((action) =>
    action.action === 'fileinto' && missing.includes(action.folder) ? { ...action, create: true as const } : action,
  );
  return rewrite(chain, rule, { ...rule, actions }, `Let “${rule.name}” make ${listed(missing)} where there is none`);
}

function inInbox(chain: Chain, rule: Rule, missing: readonly string[]): Repair {
  const actions = rule.actions.map((action) =>
    action.action === 'fileinto' && missing.includes(action.folder)
      ? ({ action: 'keep', flags: action.flags } as const)
      : action,
  );
  return rewrite(chain, rule, { ...rule, actions }, `Leave in the inbox what “${rule.name}” files`);
}
