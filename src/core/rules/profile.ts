import { type Action, type Chain, type ChainEntry, conditionOf, looksAtFlags, type Rule, type TestTree } from './rule';
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

/** A chain with a profile; without one if it runs as Sieve does. */
export function withProfile(chain: Chain, profile: Profile | null): Chain {
  const { profile: _, ...rest } = chain;
  return profile === null || isSame({ ...profile, bin: SIEVE.bin }, SIEVE) ? rest : { ...rest, profile };
}

/** What cannot be so at the same time, in sentences; none if the profile is sound. */
export function contradictionsIn({ order, ending, places, inbox, bin, delete: deleting }: Profile): string[] {
  return [
    ...(order === 'none' && ending !== 'all' ? ['Without an order, every rule that matches acts.'] : []),
    ...(order === 'none' && places !== 'several' ? ['Without an order, no filing is the first or the last.'] : []),
    ...(inbox === 'place' && places !== 'several' ? ['With one place only, the inbox cannot be one of several.'] : []),
    ...(deleting === 'bin' && bin.trim() === '' ? ['The bin has no name.'] : []),
  ];
}

/** Why entries can only be run as Sieve runs them, in sentences; none if the profile can be used. */
export function unfitFor({ entries }: Pick<Chain, 'entries'>): string[] {
  return entries.flatMap((entry) => {
    if (entry.kind === 'script') return [`“${entry.name}” is Sieve kept word for word.`];
    return looksAtFlags(conditionOf(entry)) ? [`“${entry.name}” tests flags that other rules set.`] : [];
  });
}

const profiles = new WeakMap<Chain, { readonly profile: Profile | undefined }>();

/** How a chain is run: by its profile, unless some of its entries can only be run as Sieve runs them. */
export function profileOf(chain: Chain): Profile | undefined {
  if (!chain.profile) return undefined;
  const known = profiles.get(chain) ?? { profile: unfitFor(chain).length === 0 ? chain.profile : undefined };
  profiles.set(chain, known);
  return known.profile;
}

/** Whether what one rule does depends on what other rules do, so that a message is one thing to all of them. */
export const isOneThing = ({ ending, places, deleteWins }: Profile): boolean =>
  ending === 'all' || (ending === 'rule' && (places !== 'several' || deleteWins));

/** What a rule does, in the phases in which a program does it to a message that is one thing. */
export interface Phases {
  /** What marks and sends: of all rules, before anything else. */
  readonly own: readonly Action[];
  /** Where it puts the message. */
  readonly placed: readonly Action[];
  /** Whether it puts it there before all rules that do not. */
  readonly isFirst: boolean;
}

/** Rules by what they do and how; chains are run again and again. */
const phases = new WeakMap<Rule, { readonly profile: Profile; readonly phases: Phases }>();

export function phasesOf(rule: Rule, profile: Profile): Phases {
  const known = phases.get(rule);
  if (known?.profile === profile) return known.phases;
  const found = {
    own: ownActions(rule, profile),
    placed: placings(rule, profile),
    isFirst: profile.deleteWins && isDeleting(rule),
  };
  phases.set(rule, { profile, phases: found });
  return found;
}

const places = new WeakMap<Rule, { readonly profile: Profile; readonly rule: Rule }>();

/** A rule as Sieve would have it at its place, for a program to which a message is not one thing. */
export function inPlace(rule: Rule, profile: Profile): Rule {
  const known = places.get(rule);
  if (known?.profile === profile) return known.rule;
  const found = {
    ...rule,
    actions: [...ownActions(rule, profile), ...placings(rule, profile)],
    ending: endingOf(rule, profile),
  };
  places.set(rule, { profile, rule: found });
  return found;
}

/** Whether later rules see mail that this one has acted on. */
export function endingOf({ ending }: Rule, profile: Profile): Rule['ending'] {
  if (profile.ending === 'rule') return ending;
  return profile.ending === 'first' ? 'stop' : 'continue';
}

/** The chain in Sieve's own terms, with the entry that each of its entries comes from. */
export interface InSieve {
  readonly chain: Chain;
  readonly sources: ReadonlyMap<ChainEntry, ChainEntry>;
}

/**
 * The chain without a profile that does what the program does. Where filings and deletions of several rules bear on each
 * other, what marks or sends comes first, whatever the place of the rule, then what deletes, then what files; a rule that
 * does several of these becomes several. With `isTraced`, every rule is tried once even if another has settled where the
 * message goes.
 */
export function inSieve(given: Chain, isTraced = false): InSieve {
  const profile = profileOf(given);
  if (!profile) return { chain: given, sources: new Map(given.entries.map((entry) => [entry, entry])) };
  const { profile: _, ...chain } = given;
  const rules = withoutLinks(chain.entries);
  const made = isOneThing(profile)
    ? inPhases(rules, profile, isTraced)
    : rules.map(({ rule, source }): Sourced => ({ rule: inPlace(rule, profile), source }));
  return {
    chain: { ...chain, entries: made.map(({ rule }) => rule) },
    sources: new Map(made.map(({ rule, source }) => [rule, source])),
  };
}

interface Sourced {
  readonly rule: Rule;
  readonly source: ChainEntry;
}

/** Rules of linked runs, each with the ones before it in its run as exceptions. */
function withoutLinks(entries: readonly ChainEntry[]): Sourced[] {
  let run: TestTree[] = [];
  return entries.map((entry) => {
    if (entry.kind === 'script') throw new Error('a script block runs as Sieve only, see `profileOf`');
    if (entry.link === 'always') run = [];
    const unless = run.length === 0 ? entry.unless : [...entry.unless, ...run];
    if (entry.on) run.push(conditionOf(entry));
    return { rule: { ...entry, unless, link: 'always' }, source: entry };
  });
}

const isMark = ({ action }: Action): boolean => /flag$/.test(action);
const isPlacing = ({ action }: Action): boolean => action === 'fileinto' || action === 'keep' || action === 'discard';
const isFiling = ({ action }: Action): boolean => action === 'fileinto' || action === 'keep';
const isDeleting = ({ actions }: Rule): boolean =>
  actions.some(({ action }) => action === 'discard') && !actions.some(isFiling);

/** Where a rule puts a message. Without an order, no filing is the last whose flags count. */
function placings(rule: Rule, { order, places, inbox, delete: deleting, bin }: Profile): Action[] {
  if (isDeleting(rule)) {
    return deleting === 'end'
      ? [{ action: 'discard' }]
      : [{ action: 'fileinto', folder: bin, copy: false, flags: null }];
  }
  const flagged = <Own extends { readonly flags: readonly string[] | null }>(own: Own): Own =>
    order === 'none' ? { ...own, flags: null } : own;
  const filings = rule.actions.flatMap((action): Action[] => {
    if (action.action === 'keep') return [flagged(action)];
    if (action.action !== 'fileinto') return [];
    return [{ ...flagged(action), copy: inbox === 'place' || (places === 'several' && action.copy) }];
  });
  if (places !== 'several') return filings.slice(places === 'first' ? 0 : -1).slice(0, 1);
  return inbox === 'place' ? [...filings, ...rule.actions.filter(({ action }) => action === 'discard')] : filings;
}

/**
 * What marks and sends, marks first. Without an order, setting a flag wins over removing it, and adds to what others
 * set, as do flags of filings.
 */
function ownActions({ actions }: Rule, { order }: Profile): Action[] {
  const marks = actions.filter(isMark);
  const others = actions.filter((action) => !isMark(action) && !isPlacing(action));
  if (order === 'listed') return [...marks, ...others];
  const added = actions.flatMap((action): Action[] => {
    if (action.action === 'removeflag' || !('flags' in action) || action.flags === null) return [];
    return [{ action: 'addflag', flags: action.flags }];
  });
  return [...added, ...others];
}

/** What marks and sends, then what deletes if that wins, then what files. */
function inPhases(rules: readonly Sourced[], profile: Profile, isTraced: boolean): Sourced[] {
  const stopping: TestTree[] = [];
  const made: { readonly sent: Sourced[]; readonly first: Sourced[]; readonly filed: Sourced[] } = {
    sent: [],
    first: [],
    filed: [],
  };
  for (const { rule, source } of rules) {
    // The rules that stop before it, wherever they are then.
    const reached = { ...rule, unless: [...rule.unless, ...stopping], ending: 'continue' as const };
    if (rule.on && endingOf(rule, profile) === 'stop') stopping.push(conditionOf(rule));
    const { own, placed, isFirst } = phasesOf(rule, profile);
    if (own.length > 0 || placed.length === 0 || isTraced) {
      const id = placed.length > 0 ? `${rule.id} first` : rule.id;
      made.sent.push({ rule: { ...reached, id, actions: own }, source });
    }
    if (placed.length === 0) continue;
    const isOnly = isFirst || profile.places !== 'several';
    const placing: Sourced = { rule: { ...reached, actions: placed, ending: isOnly ? 'stop' : 'continue' }, source };
    if (isFirst) made.first.push(placing);
    else made.filed.push(placing);
  }
  if (profile.places === 'last') made.filed.reverse();
  return [...made.sent, ...made.first, ...made.filed];
}
