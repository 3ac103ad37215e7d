import { type Action, type Chain, type ChainEntry, conditionOf, type Rule, type TestTree } from './rule';
import { isSame } from './same';

/** How the program that rules come from runs them. */
export interface Profile {
  /** `none`: no order is said, so that any permutation of the rules has the same fates. */
  readonly order: 'listed' | 'none';
  /** `rule`: each rule says; `first`: the first that matches ends all; `all`: every rule that matches acts. */
  readonly ending: 'rule' | 'first' | 'all';
  /** `several`: filings add up; otherwise a message has one place, of the first or of the last filing. */
  readonly places: 'several' | 'first' | 'last';
  /**
   * `rest`: what is filed leaves the inbox, unless a rule keeps it there; `place`: the inbox is one place of several,
   * left only where a rule discards beside filing, or deletes.
   */
  readonly inbox: 'rest' | 'place';
  /** Deleted mail is filed into the bin, or is gone. */
  readonly delete: 'bin' | 'end';
  /** The name of the bin. */
  readonly bin: string;
  /** Whether deleting by any rule that acts undoes filing by others. */
  readonly deleteWins: boolean;
}

/** Scripts in Sieve (RFC 5228 section 2.10). */
export const SIEVE: Profile = {
  order: 'listed',
  ending: 'rule',
  places: 'several',
  inbox: 'rest',
  delete: 'end',
  bin: 'Bin',
  deleteWins: false,
};

/** What cannot be so at the same time, in sentences; none if the profile is sound. */
export function contradictionsIn({ order, ending, places, inbox, bin, delete: deleting }: Profile): string[] {
  return [
    ...(order === 'none' && ending !== 'all' ? ['Without an order, every rule that matches acts.'] : []),
    ...(order === 'none' && places !== 'several' ? ['Without an order, no filing is the first or the last.'] : []),
    ...(inbox === 'place' && places !== 'several' ? ['With one place only, the inbox cannot be one of several.'] : []),
    ...(deleting === 'bin' && bin.trim() === '' ? ['The bin has no name.'] : []),
  ];
}

/**
 * The chain that does what a program with this profile does with the rules. Rules keep their ids. Where filings and
 * deletions of several rules bear on each other, a message is one thing: what marks or sends it comes first, whatever the
 * place of the rule, then what deletes it, then what files it; a rule that does several of these becomes several.
 * Precondition: a sound profile, and no script blocks.
 */
export function underProfile(chain: Chain, profile: Profile): Chain {
  if (isSame(profile, SIEVE)) return chain;
  const rules = withoutLinks(chain.entries);
  return {
    ...chain,
    entries: isOneThing(profile) ? inPhases(rules, profile) : rules.map((rule) => inPlace(rule, profile)),
  };
}

/** Whether what one rule does depends on what other rules do. */
const isOneThing = ({ ending, places, deleteWins }: Profile): boolean =>
  ending === 'all' || (ending === 'rule' && (places !== 'several' || deleteWins));

/** Rules of linked runs, each with the ones before it in its run as exceptions. */
function withoutLinks(entries: readonly ChainEntry[]): Rule[] {
  let run: TestTree[] = [];
  return entries.map((entry) => {
    if (entry.kind === 'script') throw new Error('a script block runs as Sieve only');
    if (entry.link === 'always') run = [];
    const unless = entry.link === 'always' ? entry.unless : [...entry.unless, ...run];
    if (entry.on) run.push(conditionOf(entry));
    return { ...entry, unless, link: 'always' };
  });
}

const isMark = ({ action }: Action): boolean => /flag$/.test(action);
const isPlacing = ({ action }: Action): boolean => action === 'fileinto' || action === 'keep' || action === 'discard';
const isFiling = ({ action }: Action): boolean => action === 'fileinto' || action === 'keep';
const isDeleting = ({ actions }: Rule): boolean =>
  actions.some(({ action }) => action === 'discard') && !actions.some(isFiling);

/** The rule where it stands. */
function inPlace(rule: Rule, profile: Profile): Rule {
  const { actions } = rule;
  const placed = placings(rule, profile);
  return {
    ...rule,
    actions: [...actions.filter((action) => !isPlacing(action)), ...placed].sort(marksFirst),
    ending: profile.ending === 'first' ? 'stop' : profile.ending === 'all' ? 'continue' : rule.ending,
  };
}

const marksFirst = (a: Action, b: Action): number => Number(isMark(b)) - Number(isMark(a));

/** Where a rule puts a message. */
function placings(rule: Rule, { places, inbox, delete: deleting, bin }: Profile): Action[] {
  if (isDeleting(rule)) {
    return deleting === 'end'
      ? [{ action: 'discard' }]
      : [{ action: 'fileinto', folder: bin, copy: false, flags: null }];
  }
  const filings = rule.actions.filter(isFiling).map((action): Action => {
    if (action.action !== 'fileinto') return action;
    return { ...action, copy: inbox === 'place' || (places === 'several' && action.copy) };
  });
  if (places !== 'several') return filings.slice(places === 'first' ? 0 : -1).slice(0, 1);
  return inbox === 'place' ? [...filings, ...rule.actions.filter(({ action }) => action === 'discard')] : filings;
}

/** What marks and sends, then what deletes if that wins, then what files. */
function inPhases(rules: readonly Rule[], profile: Profile): Rule[] {
  const stopping: TestTree[] = [];
  const phases: { readonly sent: Rule[]; readonly deleted: Rule[]; readonly filed: Rule[] } = {
    sent: [],
    deleted: [],
    filed: [],
  };
  for (const rule of rules) {
    // The rules that stop before it, wherever they are then.
    const reached = { ...rule, unless: [...rule.unless, ...stopping], ending: 'continue' as const };
    if (rule.on && profile.ending === 'rule' && rule.ending === 'stop') stopping.push(conditionOf(rule));
    const own = ownActions(rule, profile);
    const placed = placings(rule, profile);
    if (own.length > 0 || placed.length === 0) {
      phases.sent.push({
        ...reached,
        id: placed.length > 0 ? `${rule.id} first` : rule.id,
        actions: own.sort(marksFirst),
      });
    }
    if (placed.length === 0) continue;
    const isOnly = profile.places !== 'several';
    if (profile.deleteWins && isDeleting(rule)) phases.deleted.push({ ...reached, actions: placed, ending: 'stop' });
    else phases.filed.push({ ...reached, actions: placed, ending: isOnly ? 'stop' : 'continue' });
  }
  if (profile.places === 'last') phases.filed.reverse();
  return [...phases.sent, ...phases.deleted, ...phases.filed];
}

/** What marks and sends. Without an order, setting a flag wins over removing it, and adds to what others set. */
function ownActions({ actions }: Rule, { order }: Profile): Action[] {
  const own = actions.filter((action) => !isPlacing(action));
  if (order === 'listed') return own;
  return own.flatMap((action): Action[] => {
    if (action.action === 'removeflag') return [];
    return [action.action === 'setflag' ? { ...action, action: 'addflag' } : action];
  });
}
