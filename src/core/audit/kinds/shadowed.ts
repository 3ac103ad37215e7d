import type { Bitmap } from '../../flow/bitmap';
import { type Edit, inRunOf, moveBefore } from '../../rules/edit';
import { editWords } from '../../rules/edit-words';
import type { ChainEntry } from '../../rules/rule';
import type { AuditContext, RuleFlow } from '../context';
import type { Consequence, Finding } from '../finding';

/**
 * `shadowed`: the rule can hold, but for no message that reaches it, which is proved; or it holds for stored messages, none
 * of them reaches it, and a message that would can be made up or is not found.
 */
export function shadowed(context: AuditContext): Finding[] {
  return context.rules.flatMap((rule) => {
    const answer = context.canFire(rule.place);
    if (answer.answer === 'contradiction') return [];
    // Stored mail may be other than proofs take for granted: then nothing is stated.
    if (answer.answer === 'shadowed' && !rule.held.meets(rule.reached)) {
      const blamed = answer.blamed.flatMap((place) => context.chain.entries[place] ?? []);
      return [finding(context, rule, blamed, 'proved')];
    }
    if (rule.held.isEmpty() || rule.held.meets(rule.reached)) return [];
    return [finding(context, rule, smallestCover(rule.held, blockers(context, rule)), 'observed')];
  });
}

function finding(
  context: AuditContext,
  rule: RuleFlow,
  blamed: readonly ChainEntry[],
  certainty: 'proved' | 'observed',
): Finding {
  const { id, name } = rule.entry;
  const names = blamed.map((entry) => `“${entry.name}”`).join(' and ') || 'earlier rules';
  const count = rule.held.count();
  const stored = count === 1 ? 'the one stored message' : `all ${count} stored messages`;
  const seen = count > 0 ? `, as ${count === 1 ? 'one stored message is' : `${count} stored messages are`}` : '';
  return {
    key: `shadowed ${id}`,
    kind: 'shadowed',
    rules: [id, ...blamed.map((entry) => entry.id)],
    certainty,
    consequence: consequenceOf(context, rule),
    claim:
      certainty === 'proved'
        ? `“${name}” can never act: whatever it holds for is taken before by ${names}${seen}.`
        : `“${name}” never acted: ${stored} for which it holds ${count === 1 ? 'is' : 'are'} ended before by ${names}.`,
    messages: [...rule.held.members()],
    repairs: repairs(context, rule, blamed),
  };
}

interface Blocker {
  readonly entry: ChainEntry;
  /** Messages that it keeps, or would keep, from the shadowed rule. */
  readonly keeps: Bitmap;
}

/** Earlier entries that end messages the rule holds for, or take its turn in a linked run. */
function blockers({ flow, chain }: AuditContext, rule: RuleFlow): Blocker[] {
  return flow.entries.slice(0, rule.place).flatMap((earlier, place) => {
    const { entry } = earlier;
    if (!entry.on) return [];
    const sameRun = inRunOf(chain.entries, place, rule.place);
    const stops = entry.kind === 'rule' && entry.ending === 'stop';
    const alwaysTried = entry.kind === 'rule' && entry.link === 'always';
    const keeps = stops && alwaysTried ? earlier.held : sameRun ? earlier.fired.or(earlier.stopped) : earlier.stopped;
    return keeps.meets(rule.held) ? [{ entry, keeps }] : [];
  });
}

const EXACT_LIMIT = 40;

/** The fewest blockers that together keep all messages away: exact up to two of them, then the greedy choice. */
function smallestCover(held: Bitmap, candidates: readonly Blocker[]): ChainEntry[] {
  const alone = candidates.find(({ keeps }) => held.without(keeps).isEmpty());
  if (alone) return [alone.entry];
  if (candidates.length <= EXACT_LIMIT) {
    for (const [index, first] of candidates.entries()) {
      const rest = held.without(first.keeps);
      const second = candidates.slice(index + 1).find(({ keeps }) => rest.without(keeps).isEmpty());
      if (second) return [first.entry, second.entry];
    }
  }
  const chosen: Blocker[] = [];
  for (let rest = held; !rest.isEmpty(); ) {
    const best = candidates.reduce<{ blocker: Blocker | null; gain: number }>(
      (top, blocker) => {
        const gain = rest.and(blocker.keeps).count();
        return gain > top.gain ? { blocker, gain } : top;
      },
      { blocker: null, gain: 0 },
    ).blocker;
    if (!best) break;
    chosen.push(best);
    rest = rest.without(best.keeps);
  }
  return candidates.filter((blocker) => chosen.includes(blocker)).map(({ entry }) => entry);
}

function consequenceOf({ flow }: AuditContext, rule: RuleFlow): Consequence {
  if (flow.fates.dropped().meets(rule.held)) return 'lost';
  return rule.entry.actions.length === 0 ? 'clutter' : 'misplaced';
}

function repairs(
  { chain }: AuditContext,
  rule: RuleFlow,
  blamed: readonly ChainEntry[],
): { title: string; edits: Edit[] }[] {
  const edits: Edit[] = [];
  const first = blamed[0];
  const move = first && moveBefore(chain, rule.entry.id, first.id);
  if (move) edits.push(move);
  if (blamed.length === 1 && first?.kind === 'rule' && first.ending === 'stop') {
    edits.push({ kind: 'ending', id: first.id, from: 'stop', to: 'continue' });
  }
  edits.push({ kind: 'switch', id: rule.entry.id, on: false });
  return edits.map((edit) => ({ title: editWords(chain, edit), edits: [edit] }));
}
