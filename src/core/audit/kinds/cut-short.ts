import { moveBefore } from '../../rules/edit';
import { type Action, conditionOf, type Rule } from '../../rules/rule';
import { isSame } from '../../rules/same';
import { type AuditContext, evidenceOf } from '../context';
import { discards } from '../destinations';
import type { Finding } from '../finding';
import { exemptingRule, isAlways, otherEnding, repair } from '../repairs';
import { CLAIMS, MISSED } from '../wording';
import type { OverlapPair } from './overlap';

/**
 * `cut-short`: an earlier rule stops mail before a later rule can mark, copy or protect it: one that sets flags, files
 * or sends a copy, or keeps the mail in the inbox. What the earlier rule does identically is not missed.
 */
export function cutShort(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  const { each, chain } = context;
  return each(pairs, ({ a, b }) => {
    if (a.entry.ending !== 'stop') return [];
    const missed = b.entry.actions.filter(
      (action) => serves(action, b.entry) && !a.entry.actions.some((own) => same(own, action)),
    );
    if (missed.length === 0) return [];
    const evidence = evidenceOf(context, (body) => body.at(a.place).stopped.and(body.at(b.place).held));
    if (!evidence) return [];
    const [first, second] = [a.entry, b.entry];
    const count = evidence.messages.length;
    return [
      {
        key: `cut-short ${first.id} ${second.id}`,
        kind: 'cut-short',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: !discards(first) ? 'unseen' : missed.every(marks) ? 'clutter' : 'lost',
        claim: CLAIMS['cut-short'](first.name, second.name, wordsOf(missed, count > 1 ? 'them' : 'it'), count),
        ...evidence,
        strength: null,
        repairs: [
          ...repair(chain, moveBefore(chain, second.id, first.id)),
          ...repair(chain, otherEnding(first)),
          ...exemptingRule(chain, first, second),
          ...exemptingRule(chain, second, first),
        ],
      } satisfies Finding,
    ];
  });
}

/** Marking mail that is discarded anyway is useless. */
const marks = ({ action }: Action): boolean => /flag$/.test(action);

/** A last `keep;` for all mail protects none: it says what happens to the rest. */
const serves = (action: Action, rule: Rule): boolean =>
  action.action === 'addflag' ||
  action.action === 'setflag' ||
  (action.action === 'keep' && !isAlways(conditionOf(rule))) ||
  ((action.action === 'fileinto' || action.action === 'redirect') && action.copy);

/** Whether both do the same with a message; creating the folder makes no difference to it. */
const same = (a: Action, b: Action): boolean => isSame(asDone(a), asDone(b));

function asDone(action: Action): Action {
  if (action.action !== 'fileinto') return action;
  const { create: _, ...done } = action;
  return done;
}

function wordsOf(missed: readonly Action[], it: 'it' | 'them'): string[] {
  const does = (kinds: string) => missed.some(({ action }) => kinds.includes(action));
  return [
    ...(does('addflag setflag') ? [MISSED.mark(it)] : []),
    ...(does('keep') ? [MISSED.keep(it)] : []),
    ...(does('fileinto redirect') ? [MISSED.copy(it)] : []),
  ];
}
