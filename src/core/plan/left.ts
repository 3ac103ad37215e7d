import { foldersOf } from '../audit/destinations';
import type { Messages, Valued } from '../audit/stored';
import { Bitmap } from '../flow/bitmap';
import type { EntryFlow, Flow } from '../flow/flow';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';
import { foldersOfCopies } from './copies';

/** The fewest messages of a sender or list that show what the user does with them, and the part of them that must be in the inbox. */
const LEAST = 5;
const NEARLY_ALL = 0.9;
/** So many messages of others, in the folder of a rule, show that the rule was at work when the last of them came. */
const AT_WORK = 3;

/**
 * Messages in the inbox that the user took back there: rules would have filed them, and were at work by then, since mail of
 * other senders that came before is in their folders. It counts only where nearly all mail of the sender or list is so.
 */
export function leftInInbox(flow: Flow, { mail: { messages } }: Valued): Bitmap {
  const folders = new Map<number, Set<string>>();
  for (const entry of flow.entries) {
    for (const folder of entry.entry.kind === 'rule' ? foldersOf(entry.entry) : []) {
      if (canonicalFolder(folder) === INBOX) continue;
      for (const message of takenBack(entry, canonicalFolder(folder), messages)) {
        folders.set(message, (folders.get(message) ?? new Set()).add(canonicalFolder(folder)));
      }
    }
  }
  const left = new Bitmap(messages.length);
  const copies = foldersOfCopies(flow);
  for (const [message, from] of folders) {
    const ends = flow.fates.fateOf(message).deliveries.map(({ folder }) => folder);
    if (ends.every((folder) => from.has(folder) || copies.has(folder))) left.add(message);
  }
  return left;
}

function takenBack({ fired }: EntryFlow, folder: string, messages: Messages): ReadonlySet<number> {
  const writers = new Map<string, { readonly inbox: number[]; count: number }>();
  const filed: { readonly date: number; readonly writer: string }[] = [];
  for (const number of fired.members()) {
    const message = messages.at(number);
    if (!message || message.folder === null || message.date === null) continue;
    const writer = message.listId ?? message.sender;
    const known = writers.get(writer) ?? { inbox: [], count: 0 };
    writers.set(writer, known);
    known.count++;
    if (message.folder === INBOX) known.inbox.push(number);
    else if (message.folder === folder) filed.push({ date: message.date, writer });
  }
  filed.sort((a, b) => a.date - b.date);
  const back = new Set<number>();
  for (const [writer, { inbox, count }] of writers) {
    if (inbox.length < LEAST || inbox.length < count * NEARLY_ALL) continue;
    const since = filed.filter((one) => one.writer !== writer)[AT_WORK - 1]?.date;
    if (since === undefined) continue;
    for (const number of inbox) if ((messages.at(number)?.date ?? since) > since) back.add(number);
  }
  return back;
}
