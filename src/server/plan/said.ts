import { createHash } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import type { Destination } from '../../core/fates/destination';
import { PLAN_WORDS } from '../../core/plan/wording';
import type { Expectation } from '../../core/repair/expectations';
import type { TestTree } from '../../core/rules/rule';
import { getAudit, Refusal } from '../audits/audits';
import { listExpectations } from '../changes/expectations';
import type { Store } from '../database/open';
import { declined } from '../database/schema';
import { keysSetAside } from '../findings/set-aside';
import type { KeptStep } from './kept';

/** What the user has said of the plan. */
export interface Said {
  readonly answers: readonly GivenAnswer[];
  /** Reasons why changes are not wanted, by their titles. */
  readonly left: ReadonlyMap<string, string>;
  /** Numbers of messages about which they do not want to be asked. */
  readonly skipped: readonly number[];
  /** Keys of made-up messages about which they do not want to be asked. */
  readonly skippedMade: ReadonlySet<string>;
  readonly expectations: readonly Expectation[];
  /** Keys of findings that they set aside. */
  readonly aside: readonly string[];
}

/** Where messages in a scope must end; the user was asked about one of them. */
export interface GivenAnswer {
  /** Of its expectation. */
  readonly id: number;
  readonly name: string;
  readonly message: number;
  readonly destination: Destination;
  readonly scope: TestTree;
}

export function saidOf(store: Store, auditId: string): Said {
  const expectations = listExpectations(store, auditId);
  const rows = store.select().from(declined).where(eq(declined.auditId, auditId)).all();
  return {
    answers: expectations.flatMap(({ id, name, message, must, tests: scope }) =>
      message === null || must.must !== 'end only in'
        ? []
        : [{ id, name, message, destination: must.destination, scope }],
    ),
    left: new Map(rows.flatMap(({ kind, what, reason }) => (kind === 'step' ? [[what, reason]] : []))),
    skipped: rows.flatMap(({ kind, what }) => (kind === 'question' ? [Number(what)] : [])),
    skippedMade: new Set(rows.flatMap(({ kind, what }) => (kind === 'made' ? what : []))),
    expectations,
    aside: keysSetAside(store, auditId),
  };
}

/** Why a step is proposed. */
export function reasonFor({ part, agreeing, opposing, answer, assumes }: KeptStep, { answers }: Said): string {
  if (part === 'tidy') return PLAN_WORDS.proved(assumes);
  if (part === 'mend') return PLAN_WORDS['own filing'](agreeing.length, opposing.length);
  return PLAN_WORDS.answered(answers.find(({ id }) => id === answer)?.name ?? '');
}

/** Names what was said, for a plan that follows it. */
export const saidKey = ({ left, skipped, expectations, aside }: Said): string =>
  createHash('sha256')
    .update(JSON.stringify([expectations, [...left.keys()].sort(), skipped, aside]))
    .digest('base64url')
    .slice(0, 32);

/** A change that the user does not want, or a message they do not want to be asked about. */
export type Declined =
  | { readonly kind: 'step'; readonly what: string; readonly reason: string }
  | { readonly kind: 'question'; readonly what: number }
  | { readonly kind: 'made'; readonly what: string };

/** Most that can be declined. */
const MOST = 1000;

export function decline(store: Store, auditId: string, said: Declined): void {
  getAudit(store, auditId);
  const { left, skipped, skippedMade } = saidOf(store, auditId);
  if (left.size + skipped.length + skippedMade.size >= MOST)
    throw new Refusal(`At most ${MOST} steps and questions can be left out.`, 422);
  const reason = said.kind === 'step' ? said.reason : '';
  const row = { auditId, kind: said.kind, what: String(said.what), reason, createdAt: Date.now() };
  store
    .insert(declined)
    .values(row)
    .onConflictDoUpdate({ target: [declined.auditId, declined.kind, declined.what], set: row })
    .run();
}

/** Proposes a change again, or asks again. */
export function reconsider(store: Store, auditId: string, { kind, what }: Pick<Declined, 'kind' | 'what'>): void {
  store
    .delete(declined)
    .where(and(eq(declined.auditId, auditId), eq(declined.kind, kind), eq(declined.what, String(what))))
    .run();
}
