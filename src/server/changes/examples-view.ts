import { discards, rejects } from '../../core/audit/destinations';
import type { Valued } from '../../core/audit/stored';
import { counted } from '../../core/audit/wording';
import { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { domainOf } from '../../core/mail/address';
import { askingChain } from '../../core/repair/expectations';
import { proposalsFor, ranked, type Weighed } from '../../core/repair/from-examples';
import { type Learned, learnedFrom } from '../../core/repair/learned';
import { byException, byLessTests, type Narrowing, simplified } from '../../core/repair/simplify';
import { type Edit, rewriting } from '../../core/rules/edit';
import { conditionOf, looksAtFlags, type Rule, type TestTree } from '../../core/rules/rule';
import { canonicalFolder, INBOX } from '../../core/sieve/interpret/fate';
import { type Audit, getAudit } from '../audits/audits';
import { flowAtOnce, maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { type MessageRow, messageRows } from '../mail/list-view';
import { valuedMail } from '../mail/stored-mail';
import { trafficSize } from '../mail/traffic';

/** What the selected messages have in common, and what can be done with them. */
export interface ExamplesView {
  readonly chosen: readonly MessageRow[];
  readonly total: number;
  /** Tests that match them, most fitting first. */
  readonly proposals: readonly Weighed[];
  /** Their folder, if all are in one and it is not the inbox: a new rule could file into it. */
  readonly folder: string | null;
  /** Rules that could be extended to match them, most fitting first. */
  readonly widenable: readonly WidenableRule[];
  /** Rules that act on them, with ways to exempt them. */
  readonly acting: readonly ActingRule[];
}

export interface WidenableRule {
  readonly id: string;
  readonly name: string;
  readonly why: string;
  /** What it does with mail that the user may not want for these messages; null for neither. */
  readonly ends: 'discards' | 'rejects' | null;
}

export interface ActingRule {
  readonly id: string;
  readonly name: string;
  /** Of the selected messages, those it acts on. */
  readonly acts: number;
  readonly ways: readonly ExemptingWay[];
}

export interface ExemptingWay {
  readonly words: string;
  readonly edits: readonly Edit[];
  /** Of the selected messages it acts on, those it would no longer act on; and the same of the others. */
  readonly ofChosen: number;
  readonly others: number;
  readonly othersOf: number;
}

/** Nobody selects more messages than this by hand. */
const MOST_CHOSEN = 200;
const MOST_WIDENABLE = 5;
const MOST_WAYS = 10;

/** Null while the chain is not simulated. */
export function maybeExamples(store: Store, auditId: string, numbers: readonly number[]): ExamplesView | null {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) return null;
  const mail = valuedMail(store, audit);
  const wanted = [...new Set(numbers)].filter((number) => number < audit.messageCount).slice(0, MOST_CHOSEN);
  const chosen = Bitmap.of(audit.messageCount, wanted);
  const proposals = weighed(
    store,
    audit,
    proposalsFor(
      wanted.map((number) => mail.message(number)),
      mail,
    ),
    chosen,
    mail,
  );
  return {
    chosen: messageRows(store, audit, flow, wanted),
    total: trafficSize(store, audit),
    proposals,
    folder: commonFolder(wanted, mail),
    widenable: widenable(audit, flow, chosen, wanted, mail),
    acting: acting(store, audit, flow, chosen, proposals),
  };
}

function weighed(
  store: Store,
  audit: Audit,
  proposals: ReturnType<typeof proposalsFor>,
  chosen: Bitmap,
  mail: Valued,
): Weighed[] {
  const asked = flowAtOnce(store, audit, askingChain(proposals));
  if (!asked) return [];
  const caught = asked.entries.map(({ held }) => held);
  return ranked(proposals, caught, chosen, mail.sent);
}

function commonFolder(wanted: readonly number[], mail: Valued): string | null {
  const folders = new Set(wanted.map((number) => mail.message(number).folder));
  const [folder] = folders;
  return folders.size === 1 && folder && canonicalFolder(folder) !== INBOX ? folder : null;
}

const foldersOf = ({ actions }: Rule): string[] =>
  actions.flatMap((action) => (action.action === 'fileinto' ? [canonicalFolder(action.folder)] : []));

/** Rules that file into the folder of the selected messages, or act on other mail from the same senders or lists. */
function widenable(audit: Audit, flow: Flow, chosen: Bitmap, wanted: readonly number[], mail: Valued): WidenableRule[] {
  const folders = new Set(wanted.map((number) => mail.message(number).folder));
  const [senders, lists] = [new Set<string>(), new Set<string>()];
  for (const number of wanted) {
    const { sender, listId } = mail.message(number);
    if (sender.includes('@')) senders.add(domainOf(sender));
    if (listId !== null) lists.add(listId);
  }
  const relatives = new Bitmap(audit.messageCount);
  for (const [domain, numbers] of mail.byDomain)
    if (senders.has(domain)) for (const number of numbers) relatives.add(number);
  for (const [list, numbers] of mail.byList) if (lists.has(list)) for (const number of numbers) relatives.add(number);
  const others = relatives.without(chosen);
  return flow.entries
    .flatMap(({ entry, fired }) => {
      if (entry.kind !== 'rule' || !entry.on || entry.actions.length === 0) return [];
      // It already matches them.
      if (chosen.without(fired).isEmpty()) return [];
      const files = foldersOf(entry).find((folder) => folder !== INBOX && folders.has(folder));
      const acts = fired.and(others).count();
      // A rule that is mainly about these messages, and about more of them than other rules.
      const share = acts / Math.max(1, fired.count()) + acts / Math.max(1, others.count());
      const said = [
        ...(files === undefined ? [] : [`it files into “${files}”, where these messages are`]),
        ...(acts > 0 ? [`it acts on ${counted(acts, 'other')} from the same domains or lists`] : []),
      ];
      if (said.length === 0) return [];
      const ends = discards(entry) ? 'discards' : rejects(entry) ? 'rejects' : null;
      const weight = (files === undefined ? 0 : 2) + share;
      return [{ id: entry.id, name: entry.name, why: said.join('; '), ends, weight } as const];
    })
    .sort((a, b) => b.weight - a.weight)
    .slice(0, MOST_WIDENABLE)
    .map(({ weight: _, ...rule }) => rule);
}

/** For each rule that acts on selected messages: exceptions, or removals of tests and keys, that would exempt them. */
function acting(store: Store, audit: Audit, flow: Flow, chosen: Bitmap, proposals: readonly Weighed[]): ActingRule[] {
  return flow.entries.flatMap(({ entry, fired }, place): ActingRule[] => {
    const acts = fired.and(chosen);
    if (entry.kind !== 'rule' || acts.isEmpty()) return [];
    // Flags set by earlier rules are not available here.
    const alone = !looksAtFlags(conditionOf(entry));
    const narrowings = !alone ? [] : [...byLessTests(entry), ...byException(entry, proposals)];
    const asked = flowAtOnce(store, audit, {
      entries: narrowings.map(
        ({ rule }, at): Rule => ({ ...rule, id: `n${at}`, link: 'always', ending: 'continue', on: true, actions: [] }),
      ),
      closing: '',
    });
    const ways = narrowings.flatMap((narrowing, at): ExemptingWay[] => {
      const held = asked?.entries[at]?.held;
      return held
        ? wayOf(
            audit,
            place,
            entry,
            narrowing,
            acts.without(held),
            fired.without(chosen).without(held),
            fired.without(chosen).count(),
          )
        : [];
    });
    ways.sort((a, b) => b.ofChosen - a.ofChosen || a.others - b.others);
    return [{ id: entry.id, name: entry.name, acts: acts.count(), ways: ways.slice(0, MOST_WAYS) }];
  });
}

function wayOf(
  audit: Audit,
  place: number,
  entry: Rule,
  { words, rule }: Narrowing,
  spared: Bitmap,
  others: Bitmap,
  othersOf: number,
): ExemptingWay[] {
  if (spared.isEmpty() || audit.draft.entries[place] !== entry) return [];
  const edits = [rewriting(place, [entry], [rule])];
  return [{ words, edits, ofChosen: spared.count(), others: others.count(), othersOf }];
}

/** Rules suggested by the user's own filing; null while the chain is not simulated. */
export function maybeLearned(store: Store, auditId: string): readonly Learned[] | null {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  return flow && learnedFrom(valuedMail(store, audit), flow);
}

/** The rule extended by some tests, without the parts that become superfluous. */
export interface Widening {
  readonly edits: readonly Edit[];
  /** Words for the removed tests and keys. */
  readonly dropped: readonly string[];
}

/** Null if there is no such rule. */
export function maybeWidening(store: Store, auditId: string, id: string, tests: TestTree): Widening | null {
  const { draft } = getAudit(store, auditId);
  const place = draft.entries.findIndex((entry) => entry.id === id);
  const rule = draft.entries[place];
  if (rule?.kind !== 'rule') return null;
  const alternatives = rule.tests.kind === 'any' ? rule.tests.children : [rule.tests];
  const { rule: after, dropped } = simplified({ ...rule, tests: { kind: 'any', children: [...alternatives, tests] } });
  return { edits: [rewriting(place, [rule], [after])], dropped };
}
