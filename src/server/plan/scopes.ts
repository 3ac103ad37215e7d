import { and, eq } from 'drizzle-orm';
import { canonicalDestination, type Destination, destinationKey } from '../../core/fates/destination';
import type { Bitmap } from '../../core/flow/bitmap';
import { type Scope, scopesFor } from '../../core/plan/scope';
import { askingChain, brokenIn, expectationWords, isMetAt, type Must, mustWords } from '../../core/repair/expectations';
import { applyEdits } from '../../core/rules/edit';
import type { Chain, TestTree } from '../../core/rules/rule';
import { isSame } from '../../core/rules/same';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { flowAtOnce } from '../chain/simulation';
import { chainAfter } from '../changes/changes';
import { type KeptExpectation, keepExpectation, listExpectations } from '../changes/expectations';
import { ownDomains } from '../changes/verdicts';
import type { Store } from '../database/open';
import { messages } from '../database/schema';
import { valuedMail } from '../mail/stored-mail';
import { maybeTraffic } from '../mail/traffic';
import { getPlan } from './kept';
import { saidOf } from './said';

/** Where the user wants a message to end. */
export interface Wanted {
  readonly message: number;
  readonly destination: Destination;
}

/** The scopes that an answer may have, narrowest first. */
export interface ScopesView {
  readonly scopes: readonly ScopeLine[];
  /** The index of the one that is most likely meant, of those that the change behind the answer brings there whole. */
  readonly chosen: number;
}

export interface ScopeLine {
  readonly by: Scope['by'];
  readonly tests: TestTree;
  /** The whole answer in words. */
  readonly words: string;
  readonly messages: number;
  /** Those of them that would end there. */
  readonly there: number;
  readonly against: Contradiction | null;
}

/** An earlier answer or expectation that a later one contradicts. */
export interface Contradiction {
  readonly id: number;
  readonly words: string;
  /** The message that the earlier answer was about; null for other expectations. */
  readonly message: number | null;
  /** Stored messages that both are about, and one of them. */
  readonly shared: number;
  readonly example: number;
}

export function scopesView(store: Store, auditId: string, { message, destination }: Wanted): ScopesView {
  const audit = getAudit(store, auditId);
  const messageId = messageIdOf(store, audit, message);
  const must: Must = { must: 'end only in', destination: canonicalDestination(destination) };
  const { before, after } = chainsFor(store, audit, { message, destination });
  const flow = flowAtOnce(store, audit, after);
  const now = flowAtOnce(store, audit, before);
  if (!flow || !now) throw new Refusal('The chain is being simulated. Try again in a moment.', 409);
  const acting = new Set(now.entries.flatMap(({ entry, fired }) => (fired.has(message) ? [entry.id] : [])));
  const stored = valuedMail(store, audit);
  const scopes = scopesFor(stored.message(message), messageId, before, acting, stored.mail.own);
  const held = heldBy(
    store,
    audit,
    scopes.map(({ tests }) => tests),
  );
  const elsewhere = brokenIn(must, flow, ownDomains(audit));
  const seen: Bitmap[] = [];
  const lines = scopes.flatMap(({ by, tests }, at): ScopeLine[] => {
    const about = held[at];
    if (!about?.has(message) || seen.some((one) => areSame(one, about))) return [];
    seen.push(about);
    const count = about.count();
    const words = by === 'message' ? `This message alone must ${mustWords(must)}` : expectationWords({ tests, must });
    const against = contradictionOf(store, audit, must, about);
    return [{ by, tests, words, messages: count, there: count - about.and(elsewhere).count(), against }];
  });
  if (lines.length === 0) {
    throw new Refusal('This message takes no part in the audit, so there is nothing to answer.', 404);
  }
  const sorted = lines.toSorted((a, b) => a.messages - b.messages);
  const fitting = sorted.filter((line) => line.there === line.messages && line.against === null);
  const [likeliest] = fitting.toSorted((a, b) => MEANT.indexOf(a.by) - MEANT.indexOf(b.by));
  return { scopes: sorted, chosen: likeliest ? sorted.indexOf(likeliest) : 0 };
}

const areSame = (a: Bitmap, b: Bitmap): boolean => a.without(b).isEmpty() && b.without(a).isEmpty();

/** Scopes, those first that people mean most often: a domain may be that of many strangers. */
const MEANT: readonly Scope['by'][] = ['list', 'sender', 'both', 'subject', 'message', 'domain', 'recipient', 'rule'];

/** Keeps an answer as an expectation, unless it contradicts an earlier one, which is returned. */
export function giveAnswer(
  store: Store,
  auditId: string,
  { message, destination, scope, name }: Wanted & { readonly scope: TestTree; readonly name: string },
): { readonly id: number } | { readonly against: Contradiction } {
  const audit = getAudit(store, auditId);
  const must: Must = { must: 'end only in', destination: canonicalDestination(destination) };
  const [about] = heldBy(store, audit, [scope]);
  if (!about?.has(message)) throw new Refusal('The answer does not cover the message it is about.', 422);
  const given = listExpectations(store, auditId).find((one) =>
    isSame([one.message, one.must, one.tests], [message, must, scope]),
  );
  if (given) return { id: given.id };
  const against = contradictionOf(store, audit, must, about);
  if (against) return { against };
  return { id: keepExpectation(store, auditId, { name, tests: scope, must }, message) };
}

/** The plan's chain, and the same with the change behind an answer, if one is known. */
function chainsFor(store: Store, audit: Audit, { message, destination }: Wanted): { before: Chain; after: Chain } {
  const plan = getPlan(store, audit, saidOf(store, audit.id));
  const before = chainAfter(
    audit,
    plan.steps.flatMap(({ edits }) => edits),
  );
  const question = plan.questions.find((one) => one.message === message);
  const key = destinationKey(canonicalDestination(destination));
  const option = question?.options.find((one) => destinationKey(one.destination) === key);
  const applied = option ? applyEdits(before, option.edits) : null;
  return { before, after: applied?.ok ? applied.chain : before };
}

function messageIdOf(store: Store, { id, messageCount }: Audit, number: number): string | null {
  const row = store
    .select({ messageId: messages.messageId })
    .from(messages)
    .where(and(eq(messages.auditId, id), eq(messages.number, number)))
    .get();
  if (!row || number >= messageCount) throw new Refusal('There is no such message.', 404);
  return row.messageId;
}

/** The messages that take part and match each of some tests. */
function heldBy(store: Store, audit: Audit, trees: readonly TestTree[]): Bitmap[] {
  const flow = flowAtOnce(store, audit, askingChain(trees.map((tests) => ({ tests }))));
  if (!flow) throw new Refusal('These tests take too long for a page. Use fewer tests.', 422);
  const traffic = maybeTraffic(store, audit);
  return flow.entries.map(({ held }) => (traffic ? held.and(traffic) : held));
}

/** The earlier expectation with most messages that cannot be met together with a new one. */
function contradictionOf(store: Store, audit: Audit, must: Must, about: Bitmap): Contradiction | null {
  const own = ownDomains(audit);
  const others = listExpectations(store, audit.id).filter((one) => excludes(one.must, must, own));
  const held = heldBy(
    store,
    audit,
    others.map(({ tests }) => tests),
  );
  const found = others.flatMap((one, at): Contradiction[] => {
    const shared = held[at]?.and(about);
    const [example] = shared?.members() ?? [];
    return shared && example !== undefined ? [contradiction(one, shared.count(), example)] : [];
  });
  return found.sort((a, b) => b.shared - a.shared)[0] ?? null;
}

const contradiction = (one: KeptExpectation, shared: number, example: number): Contradiction => {
  return { id: one.id, words: expectationWords(one), message: one.message, shared, example };
};

/** Whether no message can meet both. */
const excludes = (earlier: Must, later: Must, own: ReadonlySet<string>): boolean =>
  later.must === 'end only in' && !isMetAt(earlier, later.destination, own);
