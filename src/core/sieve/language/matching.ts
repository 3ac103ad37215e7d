import { keysOf, memberOf } from '../../text/lookup';
import { RELATIONS } from '../../text/relation';
import { type Evidence, type Run, ScriptError, type Where } from '../interpret/run';
import { type Comparator, comparatorNamed } from '../match/comparators';
import { compileMatcher, type Hit, MATCH_TYPES, type Matcher } from '../match/matcher';
import { RegexFault } from '../match/regex';
import type { Bound } from './bind';
import { comparatorOf } from './shared';

/** A value that a test compares with its keys. */
export interface Candidate {
  readonly value: string;
  readonly where: Where;
}

/** Whether some candidate matches some key; `report` receives each match. */
export type Matching = (run: Run, candidates: readonly Candidate[], report?: (found: Evidence) => void) => boolean;

/**
 * The compiled match type of a test. Every comparing test uses this, so that match types, comparators and match
 * variables (RFC 5229 section 3.2) mean the same everywhere. Body tests set no match variables (RFC 5173 section 6).
 */
export function matchingOf(bound: Bound, keys: string, { captures = true } = {}): Matching {
  const type = bound.tag('match-type') ?? 'is';
  const comparator = comparatorNamed(comparatorOf(bound));
  const texts = bound.texts(keys);
  const capturing = captures && bound.variables;
  switch (type) {
    case 'count':
      return counting(comparator, bound.text('relation'), texts);
    case 'value':
      return each(texts, (given) => relating(comparator, bound, given));
    case 'list':
      return (run, candidates, report) => scan(candidates, (value) => inLists(run, texts(run), value), report);
    default: {
      const plain = memberOf(MATCH_TYPES, type);
      if (!plain) throw new Error(`unknown match type ${type}`);
      return each(texts, (given) => {
        try {
          return compileMatcher(comparator.name, plain, given, capturing);
        } catch (error) {
          // With variables, the expression is known only at run time.
          if (error instanceof RegexFault) throw new ScriptError(`${error.message} in a regular expression`);
          throw error;
        }
      });
    }
  }
}

type Keyed = (given: readonly string[]) => RunMatcher;
type RunMatcher = Matcher | ((value: string, run: Run) => Hit | null);

/** Compiles fixed keys once, else for each run in which they differ. */
function each(texts: (run: Run) => readonly string[], compile: Keyed): Matching {
  let last: { readonly given: readonly string[]; readonly matcher: RunMatcher } | null = null;
  return (run, candidates, report) => {
    const given = texts(run);
    if (last === null || !sameTexts(last.given, given)) last = { given, matcher: compile(given) };
    const { matcher } = last;
    return scan(
      candidates,
      (value) => matcher(value, run),
      report,
      (captures) => {
        run.variables.matches = captures;
      },
    );
  };
}

const sameTexts = (a: readonly string[], b: readonly string[]): boolean =>
  a === b || (a.length === b.length && a.every((text, index) => text === b[index]));

function scan(
  candidates: readonly Candidate[],
  meets: (value: string) => Hit | null,
  report?: (found: Evidence) => void,
  capture?: (captures: readonly string[]) => void,
): boolean {
  let holds = false;
  for (const { value, where } of candidates) {
    const hit = meets(value);
    if (!hit) continue;
    if (!holds && hit.captures) capture?.(hit.captures());
    if (!report) return true;
    holds = true;
    report({ where, value, key: hit.key, spans: hit.spans });
  }
  return holds;
}

/** RFC 5231 section 4.1. */
function relating(comparator: Comparator, bound: Bound, given: readonly string[]): RunMatcher {
  const relation = bound.text('relation');
  return (value, run: Run) => {
    const folded = comparator.fold(value);
    const holds = relationNamed(relation(run));
    const key = given.find((candidate) => holds?.(comparator.order(folded, comparator.fold(candidate))));
    return key === undefined ? null : { key, spans: [{ start: 0, end: value.length }] };
  };
}

const relationNamed = (name: string) => {
  const relation = memberOf(keysOf(RELATIONS), name.toLowerCase());
  return relation && RELATIONS[relation];
};

/** RFC 5231 section 4.2: the number of values, compared as text by the comparator. */
function counting(
  comparator: Comparator,
  relation: (run: Run) => string,
  texts: (run: Run) => readonly string[],
): Matching {
  return (run, candidates, report) => {
    const count = comparator.fold(String(candidates.length));
    const holds = relationNamed(relation(run));
    const key = texts(run).find((candidate) => holds?.(comparator.order(count, comparator.fold(candidate))));
    if (key === undefined) return false;
    report?.({ where: { kind: 'other', what: 'number of values' }, value: String(candidates.length), key, spans: [] });
    return true;
  };
}

/** RFC 6134 section 2.2: some list contains the value. */
function inLists(run: Run, names: readonly string[], value: string): Hit | null {
  const key = names.find((name) => run.world.lists.get(name)?.has(value.toLowerCase()));
  return key === undefined ? null : { key, spans: [{ start: 0, end: value.length }] };
}
