import type { Finding } from '../audit/finding';
import { withoutRepeated } from '../audit/grouping';
import { actAsOne } from '../audit/kinds/mergeable';
import { replace } from '../audit/repairs';
import { actsAlike, compareChains } from '../reason/equivalence';
import type { Knowledge } from '../reason/knowledge';
import { type Assumption, joinedAssumptions, PROOF } from '../reason/solve/assumptions';
import { maybeAlike, simplified } from '../repair/simplify';
import { applyEdits, type Edit, removal } from '../rules/edit';
import { rebase } from '../rules/rebase';
import { type Chain, type ChainEntry, leavesOf, type Rule, type TestTree } from '../rules/rule';
import { isSame } from '../rules/same';
import { nameFor } from '../rules/told/read';
import { compareText } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';
import { stepWords } from './step-words';
import { PLAN_WORDS } from './wording';

/** Changes that are proved to alter no message's fate, each for the chain with those before. */
export interface Tidied {
  readonly steps: readonly TidyStep[];
  readonly chain: Chain;
  /** What the proofs of all steps assume. */
  readonly assumes: readonly Assumption[];
  readonly before: Size;
  readonly after: Size;
}

export interface TidyStep {
  readonly title: string;
  readonly edits: readonly Edit[];
  readonly chain: Chain;
  readonly assumes: readonly Assumption[];
  /** Keys of the findings that it ends. */
  readonly findings: readonly string[];
}

/** How large a chain is. */
export interface Size {
  readonly rules: number;
  readonly tests: number;
  readonly keys: number;
}

export interface TidySettings {
  readonly knowledge: Knowledge;
  /** Whether a rule that never acts may go: not while the user may mean it to act. */
  readonly mayRemove: (rule: Rule) => boolean;
  /** Whether no stored message has another fate; if one has, an assumption of a proof does not hold for this mail. */
  readonly isUnchanged: (before: Chain, after: Chain, edits: readonly Edit[]) => boolean;
}

/** The most comparisons of whole chains. */
const MOST_COMPARISONS = 400;

/** Works out everything that can be tidied, from findings about the chain. */
export function tidied(chain: Chain, findings: readonly Finding[], settings: TidySettings): Tidied {
  const tidier = new Tidier(chain, settings);
  const proved = withoutRepeated(findings).filter(({ certainty }) => certainty === 'proved');
  // A rule whose test is written wrongly is meant to act.
  const misspelt = new Set(findings.flatMap(({ kind, rules }) => (kind === 'too-narrow' ? rules : [])));
  const isProved = new Set(proved.map(({ key }) => key));
  const ofKind = (...kinds: Finding['kind'][]) =>
    findings.filter(({ kind, key }) => kinds.includes(kind) && isProved.has(key));
  tidier.removeSilent(ofKind('contradiction', 'shadowed').filter(({ rules: [id] }) => !misspelt.has(id ?? '')));
  for (const finding of ofKind('redundant')) tidier.repair(finding, finding.repairs.at(-1)?.edits ?? []);
  tidier.simplify(ofKind('subsumed-test', 'exception-void'));
  for (const finding of ofKind('subsumed-test', 'exception-void', 'mergeable')) {
    for (const { edits } of finding.repairs.slice(0, 1)) tidier.repair(finding, edits);
  }
  tidier.sortKeys();
  tidier.nameNameless();
  const { steps, current } = tidier;
  const assumes = joinedAssumptions(...steps.map((step) => step.assumes));
  return { steps, chain: current, assumes, before: sizeOf(chain), after: sizeOf(current) };
}

class Tidier {
  readonly steps: TidyStep[] = [];
  current: Chain;
  #comparisons = 0;
  /** What rules that were removed did. */
  readonly #removed = new Set<string>();

  constructor(
    readonly base: Chain,
    readonly settings: TidySettings,
  ) {
    this.current = base;
  }

  /**
   * Rules that never act can all go at once: without them every message runs through the rest as before.
   */
  removeSilent(findings: readonly Finding[]): void {
    for (const { key, rules, assumes = [] } of findings) {
      const rule = this.#ruleOf(rules[0]);
      if (!rule || !this.settings.mayRemove(rule)) continue;
      const isGone = this.#take(PLAN_WORDS['never acts'](rule.name), [removal(this.current, rule)], assumes, [key]);
      if (isGone) this.#removed.add(deedOf(rule));
    }
  }

  /** Takes the repair of a finding if the chains before and after are proved to be equivalent. */
  repair({ key }: Finding, edits: readonly Edit[]): void {
    const found = rebase(this.base, edits, this.current);
    if (!found.ok || found.chain === this.current) return;
    const gone = found.edits.flatMap((edit) => (edit.kind === 'rewrite' && edit.after.length === 0 ? edit.before : []));
    // A rule was redundant because of another that does the same; if that one is gone, it is needed.
    if (gone.some((entry) => entry.kind === 'rule' && this.#removed.has(deedOf(entry)))) return;
    // Stored mail refutes much faster than a proof.
    if (!this.settings.isUnchanged(this.current, found.chain, found.edits)) return;
    if (this.#comparisons++ >= MOST_COMPARISONS) return;
    const assumes = this.#equivalence(found.edits, found.chain);
    if (assumes) this.#take(stepWords(this.current, found.edits), found.edits, assumes, [key]);
  }

  /** What a proof assumes that a change treats every message alike; null if there is none. */
  #equivalence(edits: readonly Edit[], after: Chain): readonly Assumption[] | null {
    const { knowledge } = this.settings;
    const [edit] = edits;
    const [old, made] = edit?.kind === 'rewrite' ? [edit.before[0], edit.after[0]] : [];
    const isOne = edits.length === 1 && edit?.kind === 'rewrite' && edit.before.length === 1 && edit.after.length === 1;
    const rule = isOne && made?.kind === 'rule' ? this.#ruleOf(old?.id) : null;
    if (rule && made?.kind === 'rule' && isSame({ ...rule, tests: made.tests, unless: made.unless }, made)) {
      return actsAlike(this.current, rule, made, knowledge, PROOF);
    }
    const merged = this.#merged(edits);
    if (merged) return merged;
    const proofs: (readonly Assumption[])[] = [];
    for (const { from, to, among } of comparisonsFor(this.current, after, edits)) {
      const comparison = compareChains(from, to, { among, knowledge, allowed: PROOF });
      if (comparison.verdict !== 'equivalent') return null;
      proofs.push(comparison.assumes);
    }
    return joinedAssumptions(...proofs);
  }

  /** The same for rules that become one, by what they are: no proof about the whole chain is needed. Null if it is. */
  #merged(edits: readonly Edit[]): readonly Assumption[] | null {
    const { entries } = this.current;
    const rewrites = edits.flatMap((edit) => (edit.kind === 'rewrite' && edit.before.length === 1 ? edit : []));
    const [made, ...more] = rewrites.flatMap(({ after }) => after);
    if (rewrites.length < edits.length || made?.kind !== 'rule' || more.length > 0) return null;
    const ids = new Set(rewrites.flatMap(({ before }) => before.map(({ id }) => id)));
    const places = [...entries.keys()].filter((place) => ids.has(elementAt(entries, place).id));
    const rules = places.flatMap((place) => this.#ruleOf(entries[place]?.id) ?? []);
    const [first] = rules;
    if (!first || rules.length < rewrites.length || !actAsOne(this.current, places)) return null;
    // In the place of the first, and doing what it does.
    const own = { ...first, tests: made.tests };
    if (first.id !== made.id || !isSame(own, made)) return null;
    const children = rules.map(({ tests }) => tests);
    return maybeAlike({ ...first, tests: { kind: 'any', children } }, own, this.settings.knowledge);
  }

  /** Removes parts of rules that the rest of the same rule makes superfluous: proved for the rule, whatever the chain. */
  simplify(findings: readonly Finding[]): void {
    for (const id of new Set(findings.flatMap(({ rules }) => rules.slice(0, 1)))) {
      const rule = this.#ruleOf(id);
      const found = rule && simplified(rule, this.settings.knowledge);
      if (!rule || !found || found.dropped.length === 0) continue;
      const keys = findings.filter(({ rules }) => rules[0] === id).map(({ key }) => key);
      const edits = [replace(this.current, rule, [found.rule])];
      this.#take(PLAN_WORDS['leave out'](rule.name, found.dropped), edits, found.assumes, keys);
    }
  }

  /** A test with several keys matches if any of them does (RFC 5228 section 2.7), so their order and repetition mean nothing. */
  sortKeys(): void {
    const edits = this.current.entries.flatMap((entry): Edit[] => {
      if (entry.kind === 'script') return [];
      const after = { ...entry, tests: sorted(entry.tests), unless: entry.unless.map(sorted) };
      return isSame(after, entry) ? [] : [replace(this.current, entry, [after])];
    });
    if (edits.length > 0) this.#take(PLAN_WORDS['sort keys'](edits.length), edits, [], []);
  }

  /** Names are no part of what a script does. */
  nameNameless(): void {
    const taken = new Set(this.current.entries.map(({ name }) => name));
    const edits = this.current.entries.flatMap((entry): Edit[] => {
      if (entry.kind === 'script' || !/^(rule \d+)?$/i.test(entry.name)) return [];
      const name = freeName(nameFor(entry), taken);
      taken.add(name);
      return [replace(this.current, entry, [{ ...entry, name }])];
    });
    if (edits.length > 0) this.#take(PLAN_WORDS['name rules'](edits.length), edits, [], []);
  }

  #ruleOf(id: string | undefined): Rule | null {
    const entry = this.current.entries.find((one) => one.id === id);
    return entry?.kind === 'rule' ? entry : null;
  }

  #take(title: string, edits: readonly Edit[], assumes: readonly Assumption[], findings: readonly string[]): boolean {
    const applied = applyEdits(this.current, edits);
    if (!applied.ok || !this.settings.isUnchanged(this.current, applied.chain, edits)) return false;
    this.steps.push({ title, edits, chain: applied.chain, assumes, findings });
    this.current = applied.chain;
    return true;
  }
}

interface Compared {
  readonly from: Chain;
  readonly to: Chain;
  /** The places, in the first of the two, of rules that the messages match. */
  readonly among: readonly number[];
}

/**
 * Comparisons that together show whether a change treats every message alike. Mail that matches none of the rules which are
 * rewritten, before or after, is: only mail that matches one of them is asked about, which is much easier to prove. Rules of
 * linked runs also act by not matching, so with them all mail is.
 */
function comparisonsFor(before: Chain, after: Chain, edits: readonly Edit[]): readonly Compared[] {
  const all = [{ from: before, to: after, among: [] }];
  const rewrites = edits.flatMap((edit) => (edit.kind === 'rewrite' ? edit : []));
  if (rewrites.length < edits.length) return all;
  const was = maybeUnlinked(
    before,
    rewrites.flatMap((edit) => edit.before),
  );
  const is = maybeUnlinked(
    after,
    rewrites.flatMap((edit) => edit.after),
  );
  if (!was || !is) return all;
  return [
    ...was.map((place) => ({ from: before, to: after, among: [place] })),
    ...is.map((place) => ({ from: after, to: before, among: [place] })),
  ];
}

/** The places of entries, if these are rules, on, and of no linked run. */
function maybeUnlinked({ entries }: Chain, some: readonly ChainEntry[]): number[] | null {
  const ids = new Set(some.map(({ id }) => id));
  const places = [...entries.keys()].filter((place) => ids.has(elementAt(entries, place).id));
  const isFree = (place: number): boolean => {
    const [entry, next] = [entries[place], entries[place + 1]];
    const isLinked = next?.kind === 'rule' && next.link === 'otherwise';
    return entry?.kind === 'rule' && entry.on && entry.link === 'always' && !isLinked;
  };
  return places.length === ids.size && places.every(isFree) ? places : null;
}

/** Equal for rules that do the same with the same messages. */
const deedOf = ({ tests, unless, actions, ending }: Rule): string => JSON.stringify([tests, unless, actions, ending]);

function freeName(wanted: string, taken: ReadonlySet<string>): string {
  let name = wanted;
  for (let at = 2; taken.has(name); at++) name = `${wanted} ${at}`;
  return name;
}

/** With the keys of each test in order, each once; the keys of named lists stay as the list has them. */
function sorted(tree: TestTree): TestTree {
  if (tree.kind !== 'leaf') return { ...tree, children: tree.children.map(sorted) };
  const { test } = tree;
  if (test.test !== 'header' && test.test !== 'address' && test.test !== 'envelope') return tree;
  if (test.list !== undefined || test.keys.length < 2) return tree;
  const isCaseless = test.comparator === 'i;ascii-casemap';
  const folded = (key: string) => (isCaseless ? key.replace(/[A-Z]/g, (letter) => letter.toLowerCase()) : key);
  const keys = [...new Map(test.keys.map((key) => [folded(key), key])).values()];
  keys.sort((a, b) => compareText(folded(a), folded(b)));
  return { kind: 'leaf', test: { ...test, keys } };
}

function sizeOf({ entries }: Chain): Size {
  const leaves = entries.flatMap((entry) =>
    entry.kind === 'rule' ? [entry.tests, ...entry.unless].flatMap(leavesOf) : [],
  );
  const keys = leaves.reduce((sum, test) => sum + ('keys' in test ? test.keys.length : 1), 0);
  return { rules: entries.length, tests: leaves.length, keys };
}
