import type { Flow } from '../flow/flow';
import { canonicalFolder } from '../sieve/interpret/fate';

/** The folders that only copies are filed into, by the rules that act on any message. */
export function foldersOfCopies({ entries }: Flow): ReadonlySet<string> {
  const [copied, filed] = [new Set<string>(), new Set<string>()];
  for (const { entry, fired } of entries) {
    if (entry.kind === 'script' || fired.isEmpty()) continue;
    for (const action of entry.actions) {
      if (action.action === 'fileinto') (action.copy ? copied : filed).add(canonicalFolder(action.folder));
    }
  }
  return new Set([...copied].filter((folder) => !filed.has(folder)));
}
