import type { AuditContext } from '../context';
import { foldersOf } from '../destinations';
import { listed, repair, switchOff } from '../edits';
import type { Finding } from '../finding';

/**
 * `missing-folder`: a rule files into a folder in which no stored mail lies, so that it does not exist as far as is known.
 * What a server does then is its own affair (RFC 5228 section 4.1): it makes the folder, keeps the mail, or fails. Nothing is
 * stated where only one folder is known, since folders were then not told apart.
 */
export function missingFolders({ chain, rules, mail }: AuditContext): Finding[] {
  const { folders } = mail.mail;
  if (folders === null || folders.size < 2) return [];
  return rules.flatMap(({ entry, fired }) => {
    const copies = entry.actions.flatMap((action) =>
      action.action === 'fileinto' && action.copy ? [action.folder] : [],
    );
    const missing = [...foldersOf(entry), ...copies].filter((folder) => !folders.has(folder));
    if (missing.length === 0) return [];
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
        repairs: repair(chain, switchOff(entry.id)),
      } satisfies Finding,
    ];
  });
}
