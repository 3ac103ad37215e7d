import { foldersOf } from '../audit/destinations';
import type { Valued } from '../audit/stored';
import type { Destination } from '../fates/destination';
import type { Flow } from '../flow/flow';
import { isArchive } from '../mail/places';
import type { Chain } from '../rules/rule';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';

/** Where the user keeps a message, and how much that tells of where it belongs: from 0 to 1. */
export interface Kept {
  readonly folder: string;
  readonly weight: number;
}

/** Mail in the inbox may only not have been filed yet; what the user answered or flagged there less so. */
const IN_INBOX = 0.35;
const IN_INBOX_MARKED = 0.7;
/** Deleted mail tells nothing of the rules (names are common practice). */
const BIN = /(^|[/.])(trash|deleted( items| messages)?|bin|papierkorb|corbeille)$/i;

/**
 * By message; null where its folder tells nothing: unknown, a bin, an archive that no rule files into, or the only folder
 * there is.
 */
export function keptPlaces(chain: Chain, mail: Valued): (message: number) => Kept | null {
  if (mail.isOneFolder) return () => null;
  const filed = new Set(chain.entries.flatMap((entry) => (entry.kind === 'rule' ? foldersOf(entry) : [])));
  const tellsNothing = (folder: string) => BIN.test(folder) || (isArchive(folder) && !filed.has(folder));
  return (message) => {
    const { folder } = mail.message(message);
    if (folder === null || mail.sent.has(message) || tellsNothing(folder)) return null;
    if (folder !== INBOX) return { folder, weight: 1 };
    return { folder, weight: mail.marked.has(message) ? IN_INBOX_MARKED : IN_INBOX };
  };
}

/**
 * How well a destination agrees with where a message is kept, from 0 to 1: best where it is that folder alone. `copies`
 * are folders that only copies are filed into: they are kept beside any other.
 */
export function agreement({ folders }: Destination, { folder }: Kept, copies: ReadonlySet<string>): number {
  if (!folders.includes(folder)) return 0;
  return folders.some((other) => other !== folder && !copies.has(other)) ? 0.5 : 1;
}

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

/** What the user has done with mail of their own accord: put it into a folder, or answered or flagged it. */
export const isAct = ({ weight }: Kept): boolean => weight >= IN_INBOX_MARKED;
