import { createHash } from 'node:crypto';
import { and, desc, eq, lt } from 'drizzle-orm';
import { type MadeUp, madeUpOf } from '../../core/audit/finding';
import { domainsOf } from '../../core/mail/address';
import { type Comparison, compareChains } from '../../core/reason/equivalence';
import { Knowledge } from '../../core/reason/knowledge';
import type { Assumption } from '../../core/reason/solve/assumptions';
import { BUDGET } from '../../core/reason/solve/solver';
import { checkAll, type Expectation, type Reasoned } from '../../core/repair/expectations';
import type { Chain } from '../../core/rules/rule';
import type { Audit } from '../audits/audits';
import { chainHash } from '../cache/keys';
import type { Store } from '../database/open';
import { answers } from '../database/schema';
import { memoryOf } from '../findings/results';

/** The answers of proofs about all possible messages, with a witness as text if there is one. */
export type Verdict =
  | { readonly verdict: 'equivalent' | 'holds'; readonly assumes: readonly Assumption[] }
  | { readonly verdict: 'different' | 'broken'; readonly witness: MadeUp }
  | { readonly verdict: 'undecided'; readonly reason: string };

/** What a proof assumes about messages; nothing if nothing was proved. */
export const assumedBy = (verdict: Verdict): readonly Assumption[] => ('assumes' in verdict ? verdict.assumes : []);

/** Whether two chains treat every message alike; null if not computed yet. */
export function maybeVerdict(store: Store, audit: Audit, a: Chain, b: Chain): Verdict | null {
  if (chainHash(a) === chainHash(b)) return { verdict: 'equivalent', assumes: [] };
  return maybeAnswer(store, audit, comparing(a, b));
}

/** The same; computes a missing answer. `checkpoint` may throw to cancel. */
export function workOutVerdict(store: Store, audit: Audit, a: Chain, b: Chain, checkpoint?: () => void): Verdict {
  return (
    maybeVerdict(store, audit, a, b) ??
    keep(store, audit, comparing(a, b), verdictOf(compareChains(a, b, { knowledge: besides(audit, checkpoint) })))
  );
}

/** Whether all messages meet an expectation under a chain; null if not computed yet. */
export function maybeReasoned(store: Store, audit: Audit, chain: Chain, expectation: Expectation): Verdict | null {
  return maybeAnswer(store, audit, expecting(audit, chain, expectation));
}

/** The same; computes a missing answer. `checkpoint` may throw to cancel. */
export function workOutReasoned(
  store: Store,
  audit: Audit,
  chain: Chain,
  expectation: Expectation,
  checkpoint?: () => void,
): Verdict {
  const question = expecting(audit, chain, expectation);
  const settings = { knowledge: besides(audit, checkpoint), clock: audit.clock };
  return (
    maybeAnswer(store, audit, question) ??
    keep(store, audit, question, verdictOf(checkAll(chain, expectation, ownDomains(audit), settings)))
  );
}

/** The domains of the user's own addresses, in lower case. */
export const ownDomains = ({ ownAddresses }: Audit): ReadonlySet<string> => domainsOf(ownAddresses);

/** Languages of texts are reused; formulas of other chains would only fill the cache. */
const besides = (audit: Audit, checkpoint?: () => void): Knowledge =>
  new Knowledge(BUDGET, memoryOf(audit).knowledge, null, checkpoint);

const comparing = (a: Chain, b: Chain): string => `compare ${chainHash(a)} ${chainHash(b)}`;

function expecting(audit: Audit, chain: Chain, { tests, must }: Expectation): string {
  const asked = JSON.stringify([tests, must, [...ownDomains(audit)].sort()]);
  return `expect ${createHash('sha256').update(asked).digest('hex').slice(0, 32)} ${chainHash(chain)}`;
}

function verdictOf(found: Comparison | Reasoned): Verdict {
  return 'witness' in found ? { verdict: found.verdict, witness: madeUpOf(found.witness) } : found;
}

function maybeAnswer(store: Store, { id }: Audit, question: string): Verdict | null {
  const row = store
    .select()
    .from(answers)
    .where(and(eq(answers.auditId, id), eq(answers.question, question)))
    .get();
  return row?.answer ?? null;
}

/** Answers cached for each audit; every previewed edit needs a few. */
const KEPT = 500;

function keep(store: Store, { id: auditId }: Audit, question: string, verdict: Verdict): Verdict {
  const row = { auditId, question, answer: verdict, createdAt: Date.now() };
  store
    .insert(answers)
    .values(row)
    .onConflictDoUpdate({ target: [answers.auditId, answers.question], set: row })
    .run();
  const oldest = store
    .select({ createdAt: answers.createdAt })
    .from(answers)
    .where(eq(answers.auditId, auditId))
    .orderBy(desc(answers.createdAt))
    .limit(1)
    .offset(KEPT)
    .get();
  if (oldest) {
    store
      .delete(answers)
      .where(and(eq(answers.auditId, auditId), lt(answers.createdAt, oldest.createdAt)))
      .run();
  }
  return verdict;
}
