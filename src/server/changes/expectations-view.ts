import { type Expectation, expectationWords } from '../../core/repair/expectations';
import { offeredExpectations } from '../../core/repair/offered-expectations';
import { isSame } from '../../core/rules/same';
import { getAudit } from '../audits/audits';
import { type RuleOffers, ruleOffers } from '../chain/rule-view';
import { maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { valuedMail } from '../mail/stored-mail';
import { trafficSize } from '../mail/traffic';
import { checkOnStored, listExpectations, standings } from './expectations';
import type { Verdict } from './verdicts';

export interface ExpectationsView {
  readonly total: number;
  readonly kept: readonly ExpectationLine[];
  /** Suggestions that are not saved yet; empty while the chain is not simulated. */
  readonly offered: readonly OfferedLine[];
  readonly offers: RuleOffers;
}

export interface ExpectationLine {
  readonly id: number;
  readonly name: string;
  readonly words: string;
  /** The stored messages it applies to, and those that do not meet it; null while unknown. */
  readonly stored: { readonly about: number; readonly broken: number } | null;
  /** Probes that do not meet it. */
  readonly probes: readonly string[];
  readonly reasoned: Verdict | null;
}

export interface OfferedLine {
  readonly expectation: Expectation;
  readonly words: string;
  /** What the user did that suggests it; null for one that most users have. */
  readonly because: string | null;
  readonly about: number;
  readonly broken: number;
}

/** A suggestion that no act of the user supports must be met by at least this part of the mail. */
const MOST_BROKEN = 0.2;

export function expectationsView(store: Store, auditId: string): ExpectationsView {
  const audit = getAudit(store, auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  const kept = listExpectations(store, auditId);
  const offered = flow ? offeredExpectations(valuedMail(store, audit), audit.ownAddresses) : [];
  return {
    total: trafficSize(store, audit),
    kept: standings(store, audit, audit.draft, flow).map(({ expectation, stored, probes, reasoned }) => ({
      id: expectation.id,
      name: expectation.name,
      words: expectationWords(expectation),
      stored: stored && { about: stored.about.count(), broken: stored.broken.count() },
      probes,
      reasoned,
    })),
    offered: offered.flatMap(({ because, ...expectation }) => {
      const { tests, must } = expectation;
      if (kept.some((one) => isSame([one.tests, one.must], [tests, must]))) return [];
      const stored = flow && checkOnStored(store, audit, expectation, flow);
      if (!stored || stored.about.isEmpty()) return [];
      const [about, broken] = [stored.about.count(), stored.broken.count()];
      if (because === null && broken > about * MOST_BROKEN) return [];
      return [{ expectation, words: expectationWords(expectation), because, about, broken }];
    }),
    offers: ruleOffers(store, audit),
  };
}
