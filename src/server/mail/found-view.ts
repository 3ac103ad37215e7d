import { isConfirmed } from '../../core/audit/grouping';
import { Bitmap } from '../../core/flow/bitmap';
import { containing } from '../../core/text/words';
import { type Audit, getAudit } from '../audits/audits';
import { shownSentence } from '../chain/shortened';
import type { Store } from '../database/open';
import { findingsAtHand } from '../findings/set-aside';
import { messageRows, newest, within } from './list-view';
import { folderCounts, maybePresent } from './message-numbers';
import { messagesWithWords } from './word-index';

/** What contains some words, anywhere in an audit: at most `MOST` of each kind. */
export interface FoundView {
  /** Those whose names contain the words come first. */
  readonly rules: readonly {
    readonly id: string;
    readonly place: number;
    readonly name: string;
    readonly sentence: string;
  }[];
  readonly folders: readonly { readonly name: string; readonly messages: number }[];
  /** Confirmed ones first. */
  readonly findings: readonly { readonly key: string; readonly claim: string }[];
  /** The newest, by sender or subject. */
  readonly messages: readonly {
    readonly number: number;
    readonly subject: string;
    readonly from: string;
    readonly date: number | null;
  }[];
  /** How many there are of each kind. */
  readonly all: Readonly<Record<'rules' | 'folders' | 'findings' | 'messages', number>>;
}

/** Few enough that each kind is seen without much scrolling. */
const MOST = 4;
/** Fewer characters begin too many words of the mail. */
const LEAST = 2;

/** What contains all of some words: names and notes of rules, folders, claims of findings, senders and subjects of messages. */
export function foundView(store: Store, auditId: string, asked: string): FoundView {
  const audit = getAudit(store, auditId);
  const { profile } = audit.draft;
  const has = containing(asked);
  const met = audit.draft.entries
    .map((entry, place) => ({
      id: entry.id,
      place,
      name: entry.name,
      note: entry.note,
      sentence: shownSentence(entry, profile),
    }))
    .filter(({ name, note, sentence }) => has(name, note, sentence));
  const isCalled = ({ name }: { readonly name: string }) => has(name);
  const rules = [...met.filter(isCalled), ...met.filter((rule) => !isCalled(rule))];
  const folders = folderCounts(store, audit).filter(({ name }) => has(name));
  const named = findingsAtHand(store, audit).filter(({ claim }) => has(claim));
  const findings = [...named.filter(isConfirmed), ...named.filter((finding) => !isConfirmed(finding))];
  const mail = messagesMet(store, audit, asked);
  return {
    rules: rules.slice(0, MOST).map(({ id, place, name, sentence }) => ({ id, place, name, sentence })),
    folders: folders.slice(0, MOST),
    findings: findings.slice(0, MOST).map(({ key, claim }) => ({ key, claim })),
    messages: messageRows(store, audit, null, newest(store, audit, mail, MOST)).map(
      ({ number, subject, from, fromAddress, date }) => ({ number, subject, from: from || fromAddress, date }),
    ),
    all: { rules: rules.length, folders: folders.length, findings: findings.length, messages: mail.count() },
  };
}

function messagesMet(store: Store, audit: Audit, asked: string): Bitmap {
  if (asked.trim().length < LEAST) return new Bitmap(audit.messageCount);
  const met = within(audit, messagesWithWords(store, audit.ordinal, asked, 'head'));
  const present = maybePresent(store, audit);
  return present ? met.and(present) : met;
}
