import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import type { Edit } from '../../core/rules/edit';
import { type Audit, Refusal } from '../audits/audits';
import { fateLine, placesLine } from '../chain/destinations';
import { flowAtOnce, maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';
import { preparedScript } from '../handover/handover';
import type { MessageQuery } from '../http/shapes';
import { soundChainAfter, stepsOf } from './changes';
import { movedBetween, movedByRule, partsOfRule } from './compare-destinations';
import { type ChainRef, chainAt } from './versions';

/**
 * One bitmap per comparison in the query: messages whose fate differs between the two chains. Empty if the query
 * contains no comparison.
 */
export function comparedMessages(store: Store, audit: Audit, query: MessageQuery): Bitmap[] {
  const { changed, between, was, change, mover, trying } = query;
  if (trying) return [ofTrial(store, audit, trying, query)];
  if (query.costs) return [ofCosts(store, audit)];
  if (change !== undefined) return [alteredBy(store, audit, change)];
  if (!changed && !between && mover === undefined && was === undefined) return [];
  const flowAt = (ref: ChainRef) => {
    const flow = maybeFlow(store, audit, chainAt(store, audit, ref));
    if (!flow) throw new Refusal('The chain is being simulated. Try again in a moment.', 409);
    return flow;
  };
  const [from = '', to = ''] = (between ?? 'baseline..draft').split('..');
  const [before, after] = [flowAt(refOf(from)), flowAt(refOf(to))];
  return [mover === undefined ? movedAs(before, after, query) : movedByRule(before, after, mover)];
}

/** Messages whose fate differs, limited to one pair of destinations if the query names it. */
function movedAs(before: Flow, after: Flow, { was, becomes, flags }: MessageQuery): Bitmap {
  return was !== undefined && becomes !== undefined
    ? movedBetween(before, after, was, becomes, flags ? fateLine : placesLine)
    : after.fates.differsFrom(before.fates);
}

const refOf = (text: string): ChainRef => (text === 'baseline' || text === 'draft' ? text : Number(text));

/** Messages that the script to be exported treats differently than the draft. */
function ofCosts(store: Store, audit: Audit): Bitmap {
  const chains = [audit.draft, preparedScript(store, audit).chain];
  const [before, after] = chains.map((chain) => maybeFlow(store, audit, chain));
  if (!before || !after) throw new Refusal('The script is not verified yet. Verify it first.', 409);
  return after.fates.differsFrom(before.fates);
}

/** Messages affected by changes that are not made yet. */
function ofTrial(store: Store, audit: Audit, edits: readonly Edit[], query: MessageQuery): Bitmap {
  const chain = soundChainAfter(audit, edits);
  const [before, after] = [maybeFlow(store, audit, audit.draft), flowAtOnce(store, audit, chain)];
  if (!before || !after) throw new Refusal('The effect of this change is not known yet. Preview it again.', 409);
  const { written, does = 'fired' } = query;
  return written === undefined ? movedAs(before, after, query) : partsOfRule(before, after, written)[does];
}

/** Messages whose fate differs from the imported chain and was affected by one change. */
function alteredBy(store: Store, audit: Audit, change: number): Bitmap {
  const steps = stepsOf(store, audit);
  const at = steps.findIndex(({ id }) => id === change);
  const [before, after] = [steps[at - 1], steps[at]].map((step) => step && maybeFlow(store, audit, step.chain));
  const [first, last] = [audit.baseline, audit.draft].map((chain) => maybeFlow(store, audit, chain));
  if (!before || !after || !first || !last)
    throw new Refusal('This change no longer exists, or it is not simulated yet.', 404);
  return after.fates.differsFrom(before.fates).and(last.fates.differsFrom(first.fates));
}
