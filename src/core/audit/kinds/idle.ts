import { dateParts } from '../../mail/date';
import { PROOF } from '../../reason/solve/assumptions';
import { type ChainEntry, conditionOf, type LeafTest, leavesOf, type ScriptBlock } from '../../rules/rule';
import { commands } from '../../sieve/language/table';
import { parse } from '../../sieve/parse';
import type { Statement } from '../../sieve/tree';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding } from '../finding';
import { withoutRule } from '../repairs';
import { takersOf } from '../takers';
import { CLAIMS, type Reason, STRENGTHS } from '../wording';

/** Milliseconds. */
const YEAR = 365 * 86_400_000;

/**
 * `idle`: a rule has acted on no stored message, or on none within the year before the newest message; or it can never
 * act again, since it tests for dates that are over: this is proved. Script blocks that do something to mail count too.
 */
export function idle(context: AuditContext): Finding[] {
  const over = context.each(context.rules, (rule) => overFinding(context, rule) ?? []);
  const ids = new Set(over.flatMap(({ rules }) => rules));
  return [...over, ...unused(context).filter(({ rules }) => !rules.some((id) => ids.has(id)))];
}

/** A rule that no message can match from today on, and that acted on no message of the last year. */
function overFinding(context: AuditContext, { entry, place, fired }: RuleFlow): Finding | null {
  const { chain, mail, questions, today } = context;
  if (!leavesOf(conditionOf(entry)).some(isOfNow)) return null;
  const last = lastDate(fired.members(), (number) => mail.message(number).date);
  if (last !== null && mail.newest !== null && last >= mail.newest - YEAR) return null;
  const fromNow = questions.formulas.maybeFormula({ kind: 'leaf', test: notBefore(today) });
  if (fromNow === null || questions.known(place)?.answer === 'contradiction') return null;
  const answer = questions.maybeMeet('parts', [questions.condition(place), fromNow], null, PROOF);
  if (answer?.answer !== 'impossible') return null;
  return {
    key: `idle ${entry.id}`,
    kind: 'idle',
    rules: [entry.id],
    certainty: 'proved',
    assumes: answer.assumes,
    consequence: 'clutter',
    claim: CLAIMS['idle over'](entry.name),
    messages: [...fired.members()],
    witness: null,
    strength: null,
    repairs: withoutRule(chain, entry),
  };
}

const isOfNow = (leaf: LeafTest): boolean => leaf.test === 'compared' && leaf.subject.of === 'currentdate';

/** The current date is this day or a later one. */
function notBefore(time: number): LeafTest {
  const day = dateParts(time, 0, 'date') ?? '';
  return {
    test: 'compared',
    subject: { of: 'currentdate', part: 'date', zone: null },
    by: { match: 'value', relation: 'ge', comparator: 'i;octet', keys: [day] },
  };
}

function unused(context: AuditContext): Finding[] {
  const { chain, stored, mail, each, rules } = context;
  const { newest } = mail;
  const { total } = stored.flow;
  if (total === 0) return [];
  const acting = stored.flow.entries.filter(({ entry }) => entry.on && (entry.kind === 'rule' || mayAct(entry)));
  return each(acting, ({ entry, fired, held }) => {
    const last = lastDate(fired.members(), (number) => mail.message(number).date);
    const never = fired.isEmpty();
    if (!never && (last === null || newest === null || last > newest - YEAR)) return [];
    return [
      {
        key: `idle ${entry.id}`,
        kind: 'idle',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'clutter',
        claim: CLAIMS.idle(
          entry.name,
          never ? null : last,
          held.count(),
          never ? takersNamed(context, rules, entry) : [],
        ),
        messages: [...(never ? held : fired).members()],
        witness: null,
        strength: { part: fired.count(), whole: total, words: STRENGTHS.idle },
        repairs: withoutRule(chain, entry),
      } satisfies Finding,
    ];
  });
}

function takersNamed(context: AuditContext, rules: readonly RuleFlow[], { id }: ChainEntry): Reason[] {
  const rule = rules.find(({ entry }) => entry.id === id);
  return rule ? takersOf(context, rule).map(({ entry, count }) => [count, entry.name]) : [];
}

/** Whether a script block does more than set variables. */
function mayAct({ text, works }: ScriptBlock): boolean {
  const acts = (statements: readonly Statement[]): boolean =>
    statements.some((statement) => {
      if (statement.kind !== 'command') return false;
      const isAction = commands.get(statement.name)?.role === 'action' && !/^(set|extracttext)$/.test(statement.name);
      return isAction || acts(statement.block?.commands ?? []);
    });
  return works && acts(parse(text).script.commands);
}

function lastDate(members: Iterable<number>, dateOf: (number: number) => number | null): number | null {
  let last: number | null = null;
  for (const number of members) {
    const date = dateOf(number);
    if (date !== null && (last === null || date > last)) last = date;
  }
  return last;
}
