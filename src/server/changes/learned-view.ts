import { evaluateAtoms } from '../../core/flow/atoms';
import type { Bitmap } from '../../core/flow/bitmap';
import { runFlow } from '../../core/flow/flow';
import { atomsOf } from '../../core/flow/program';
import { learnSet } from '../../core/repair/learned-set';
import { type UnwantedSender, unwantedSenders } from '../../core/repair/unwanted';
import { profileOf } from '../../core/rules/profile';
import type { Chain, ChainEntry, Rule } from '../../core/rules/rule';
import { canonicalFolder, INBOX } from '../../core/sieve/interpret/fate';
import { getAudit } from '../audits/audits';
import { shownSentence } from '../chain/shortened';
import type { Store } from '../database/open';
import { StoredColumns } from '../mail/columns';
import { messagesByFolder } from '../mail/folder-messages';
import { valuedMail } from '../mail/stored-mail';
import { unsubscribable } from '../mail/unsubscribing';

/** A whole set of rules from filed mail: learned from the older part, and tried on the newer one. */
export interface LearnedSetView {
  readonly rows: readonly LearnedRow[];
  readonly older: Tried;
  readonly newer: Tried;
  /** The entries of the draft; null for more than anybody replaces as a whole. */
  readonly draft: readonly ChainEntry[] | null;
  readonly entries: number;
  /** Senders whose mail is unwanted and offers no way to unsubscribe. */
  readonly unwanted: readonly UnwantedRow[];
}

export interface UnwantedRow extends Pick<UnwantedSender, 'address' | 'unread' | 'thrown'> {
  readonly messages: number;
}

export interface LearnedRow {
  readonly rule: Rule;
  readonly sentence: string;
  readonly older: Counts;
  readonly newer: Counts;
}

interface Counts {
  /** Messages that the rule files where they are, and elsewhere: those that it covers. */
  readonly right: number;
  readonly wrong: number;
  /** Filed messages that no rule acts on: for one rule, those in its folder. */
  readonly left: number;
}

interface Tried extends Counts {
  /** All of these messages, and those of them that are filed: in a folder other than the inbox. */
  readonly messages: number;
  readonly filed: number;
}

const MOST_REPLACED = 1000;

/** Takes seconds with much mail. */
export function learnedSetView(store: Store, auditId: string): LearnedSetView {
  const audit = getAudit(store, auditId);
  const { entries } = audit.draft;
  const mail = valuedMail(store, audit);
  const { rules, older, newer } = learnSet(mail);
  const chain: Chain = { entries: rules, closing: '' };
  const columns = new StoredColumns(store, audit.id, audit.messageCount, audit.recipient);
  const flow = runFlow(
    chain,
    evaluateAtoms(atomsOf(chain), columns, () => {}, audit.clock),
    audit.messageCount,
  );
  const folders = messagesByFolder(store, audit);
  const filed = [...folders].reduce(
    (all, [folder, own]) => (folder === INBOX ? all : all.or(own)),
    older.without(older),
  );
  const acted = flow.entries.reduce((sum, { fired }) => sum.or(fired), older.without(older));
  const countsIn = (fired: Bitmap, rule: Rule, among: Bitmap): Counts => {
    const taken = fired.and(among);
    const there = folders.get(folderOf(rule)) ?? taken.without(taken);
    const right = taken.and(there).count();
    return { right, wrong: taken.count() - right, left: there.and(among).without(acted).count() };
  };
  const rows = flow.entries.flatMap(({ entry, fired }): LearnedRow[] => {
    if (entry.kind !== 'rule') return [];
    return [
      {
        rule: entry,
        sentence: shownSentence(entry, profileOf(audit.draft)),
        older: countsIn(fired, entry, older),
        newer: countsIn(fired, entry, newer),
      },
    ];
  });
  const tried = (among: Bitmap, countsOf: (row: LearnedRow) => Counts): Tried => {
    const sum = (part: 'right' | 'wrong') => rows.reduce((total, row) => total + countsOf(row)[part], 0);
    const own = filed.and(among);
    return {
      messages: among.count(),
      filed: own.count(),
      right: sum('right'),
      wrong: sum('wrong'),
      left: own.without(acted).count(),
    };
  };
  return {
    rows,
    older: tried(older, (row) => row.older),
    newer: tried(newer, (row) => row.newer),
    draft: entries.length <= MOST_REPLACED ? entries : null,
    entries: entries.length,
    unwanted: unwantedSenders(mail, unsubscribable(store, audit, 'offered')).map(({ messages, ...sender }) => ({
      ...sender,
      messages: messages.length,
    })),
  };
}

function folderOf({ actions: [action] }: Rule): string {
  return action?.action === 'fileinto' ? canonicalFolder(action.folder) : '';
}
