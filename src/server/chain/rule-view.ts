import { randomUUID } from 'node:crypto';
import { and, count, desc, ne } from 'drizzle-orm';
import { blankRule, type NamedList, type Rule } from '../../core/rules/rule';
import { type Audit, getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import type { Beginning } from '../http/shapes';
import { offersOf } from '../mail/filters-view';
import { counted } from '../mail/message-numbers';
import { unsubscribingWords } from '../mail/unsubscribing';

/** A rule to edit, and suggestions for its fields. */
export interface RuleDeskView {
  readonly rule: Rule;
  /** The id of the rule; null for a new one. */
  readonly changes: string | null;
  readonly behind: string | null;
  /** The name of the entry before it; null at the beginning of the chain. */
  readonly before: string | null;
  /** Whether it can be linked to the rule before it. */
  readonly mayLink: boolean;
  readonly offers: RuleOffers;
}

export interface RuleOffers {
  /** Folders of the stored mail and of the chain. */
  readonly folders: readonly string[];
  readonly own: readonly string[];
  /** Addresses and domains of senders, the most frequent first. */
  readonly senders: readonly string[];
  readonly lists: readonly string[];
  /** Tags that other rules have. */
  readonly tags: readonly string[];
  /** Lists that tests can use. */
  readonly named: readonly NamedList[];
  /** Words for unsubscribing in the languages of the stored mail. */
  readonly unsubscribing: readonly string[];
  /** YYYY-MM-DD. */
  readonly today: string;
}

const MOST_SENDERS = 400;

/** Null if there is no such rule, or it is a script block. */
export function maybeRuleDesk(
  store: Store,
  auditId: string,
  wanted: { readonly rule: string | null; readonly behind: string | null; readonly beginning?: Beginning | null },
): RuleDeskView | null {
  const audit = getAudit(store, auditId);
  const { entries } = audit.draft;
  const place = entries.findIndex(({ id }) => id === (wanted.rule ?? wanted.behind));
  if (place < 0 && (wanted.rule ?? wanted.behind) !== null) return null;
  const found = wanted.rule === null ? null : entries[place];
  if (found && found.kind !== 'rule') return null;
  const before = wanted.rule === null ? entries[place] : entries[place - 1];
  return {
    rule: found ?? begun(wanted.beginning ?? null),
    changes: found?.id ?? null,
    behind: wanted.behind,
    before: before?.name ?? null,
    mayLink: before?.kind === 'rule',
    offers: ruleOffers(store, audit),
  };
}

/** A new rule that has only its ending. */
const blank = (): Rule => ({ ...blankRule(randomUUID()), ending: 'stop' });

/** A new rule prefilled with what is known. */
function begun(beginning: Beginning | null): Rule {
  if (!beginning) return blank();
  const { tests, folder, name } = beginning;
  const actions = folder === undefined ? [] : [{ action: 'fileinto', folder, copy: false, flags: null } as const];
  return { ...blank(), name, tests, actions };
}

/** Folders of stored mail and those that rules file into. */
export const folderOffers = (store: Store, audit: Audit): string[] =>
  foldersOffered(audit, offersOf(store, audit.id).folders);

function foldersOffered({ draft }: Audit, stored: readonly string[]): string[] {
  const named = draft.entries.flatMap((entry) => {
    return entry.kind === 'rule' ? entry.actions.flatMap((one) => (one.action === 'fileinto' ? [one.folder] : [])) : [];
  });
  return [...new Set([...stored, ...named])].sort((a, b) => a.localeCompare(b));
}

export function ruleOffers(store: Store, audit: Audit): RuleOffers {
  const { id: auditId } = audit;
  const { folders, lists, accounts } = offersOf(store, auditId);
  const rows = store
    .select({ address: messages.fromAddress, count: count() })
    .from(messages)
    .where(and(counted(audit), ne(messages.fromAddress, '')))
    .groupBy(messages.fromAddress)
    .orderBy(desc(count()))
    .limit(MOST_SENDERS)
    .all();
  const addresses = rows.map(({ address }) => address.toLowerCase());
  const domains = addresses.map((address) => address.slice(address.lastIndexOf('@') + 1));
  return {
    folders: foldersOffered(audit, folders),
    own: accounts,
    senders: [...new Set([...addresses, ...domains])],
    lists: lists.map(({ id }) => id),
    tags: [...new Set(audit.draft.entries.flatMap((entry) => (entry.kind === 'rule' ? (entry.tags ?? []) : [])))],
    named: audit.draft.lists ?? [],
    unsubscribing: unsubscribingWords(store, audit),
    today: new Date(audit.clock.fixed ?? audit.clock.otherwise).toISOString().slice(0, 10),
  };
}
