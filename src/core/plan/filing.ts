import { foldersOf } from '../audit/destinations';
import type { Valued } from '../audit/stored';
import type { Destination } from '../fates/destination';
import type { Flow } from '../flow/flow';
import type { Chain } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import { leftInInbox } from './left';

/** Where the user keeps a message, and how much that tells of where it belongs: from 0 to 1. */
export interface Kept {
  readonly folder: string;
  readonly weight: number;
}

/** Mail in the inbox may only not have been filed yet; what the user answered, flagged or took back there less so. */
const IN_INBOX = 0.35;
const IN_INBOX_AT_WILL = 0.7;

/**
 * By message; null where its folder tells nothing: unknown, of deleted mail, unwanted mail or drafts, an archive that no rule
 * files into, or the only folder there is.
 */
export function keptPlaces(chain: Chain, mail: Valued, flow: Flow): (message: number) => Kept | null {
  if (mail.isOneFolder) return () => null;
  const atWill = mail.marked.or(leftInInbox(flow, mail));
  const filed = new Set(chain.entries.flatMap((entry) => (entry.kind === 'rule' ? foldersOf(entry) : [])));
  const tellsNothing = (folder: string) => {
    const use = mail.purposeOf(folder);
    return use === 'archive' ? !filed.has(folder) : use !== null && use !== 'sent';
  };
  const maybeKept = (message: number): Kept | null => {
    const { folder } = mail.message(message);
    if (folder === null || mail.sent.has(message) || tellsNothing(folder)) return null;
    if (folder !== INBOX) return { folder, weight: 1 };
    return { folder, weight: atWill.has(message) ? IN_INBOX_AT_WILL : IN_INBOX };
  };
  const known: (Kept | null | undefined)[] = [];
  return (message) => {
    const before = known[message];
    if (before !== undefined) return before;
    const found = maybeKept(message);
    known[message] = found;
    return found;
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

/** What the user has done with mail of their own accord: put it into a folder, back into the inbox, or answered or flagged it. */
export const isAct = ({ weight }: Kept): boolean => weight >= IN_INBOX_AT_WILL;
