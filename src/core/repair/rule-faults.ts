import { maybeSingleAddress } from '../mail/address';
import { Knowledge } from '../reason/knowledge';
import { Reach } from '../reason/reach';
import { COMPARISON } from '../reason/solve/assumptions';
import { not } from '../reason/solve/formula';
import { type Action, conditionOf, type LeafTest, looksAtFlags, type Rule, type TestTree } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { wordsOf } from '../sieve/diagnostics';
import { parse } from '../sieve/parse';

/** A remark on a part of a rule, before it is saved. */
export interface RuleFault {
  /** The part: `name`, `tests.0.2`, `unless.1`, `actions.0`, or empty for the whole rule. */
  readonly at: string;
  readonly words: string;
  /** Whether it must be corrected before the rule can be saved. */
  readonly grave: boolean;
}

/** Octets that all common mail stores accept for a folder name (common practice; no standard sets a limit). */
const LONG_FOLDER = 255;

/**
 * All remarks on a rule, each at its part, in plain words: what no server would accept, and what was probably not
 * intended, such as a test that matches everything.
 */
export function ruleFaults(rule: Rule): RuleFault[] {
  const faults = formFaults(rule);
  return faults.some(({ grave }) => grave) ? faults : [...faults, ...meaningFaults(rule)];
}

/** Whether a rule is complete but for its name: what it would catch can be counted. */
export const isCountable = (rule: Rule): boolean => !formFaults(named(rule)).some(({ grave }) => grave);

/** With a name, if only that is missing. */
export const named = (rule: Rule): Rule => (rule.name.trim() === '' ? { ...rule, name: 'Unnamed' } : rule);

function formFaults(rule: Rule): RuleFault[] {
  const faults: RuleFault[] = [];
  if (rule.name.trim() === '') faults.push({ at: 'name', words: 'The rule has no name.', grave: true });
  faults.push(...treeFaults(rule.tests, 'tests'));
  rule.unless.forEach((tree, index) => {
    faults.push(...treeFaults(tree, `unless.${index}`));
  });
  rule.actions.forEach((action, index) => {
    faults.push(...actionFaults(action).map((fault) => ({ ...fault, at: `actions.${index}` })));
  });
  for (const done of onTheDesk(rule)) {
    const words = `“${done}” stays a note: a mail server cannot do this, only a mail program can.`;
    faults.push({ at: 'actions', words, grave: false });
  }
  if (rule.actions.length === 0) {
    const words =
      rule.ending === 'stop'
        ? 'The rule has no action: it only stops the chain, and its mail stays in the inbox.'
        : 'The rule does nothing: add an action.';
    faults.push({ at: 'actions', words, grave: false });
  }
  if (faults.some(({ grave }) => grave)) return faults;
  const refused = scriptFault(rule);
  return refused === null
    ? faults
    : [...faults, { at: '', words: `A server would reject the rule: ${refused}.`, grave: true }];
}

/** The beginning of a note's line about something only a mail program on the user's machine could do (need N32). */
export const ON_THE_DESK = 'On the desk:';

/** Actions that no script can express. */
function onTheDesk({ note }: Rule): string[] {
  const lines = note.split('\n').filter((line) => line.startsWith(ON_THE_DESK));
  return lines.map((line) => line.slice(ON_THE_DESK.length).trim()).filter((done) => done !== '');
}

function treeFaults(tree: TestTree, at: string): RuleFault[] {
  if (tree.kind === 'leaf') return leafFaults(tree.test).map((fault) => ({ ...fault, at }));
  const inner = tree.children.flatMap((child, index) => treeFaults(child, `${at}.${index}`));
  if (tree.children.length > 0) return inner;
  const subject = at === 'tests' ? 'The rule has no test' : 'This group has no test';
  const result = tree.kind === 'any' ? 'never matches' : 'matches every message';
  return [{ at, words: `${subject}, so it ${result}.`, grave: false }];
}

type Said = Omit<RuleFault, 'at'>;

const grave = (words: string): Said => ({ words, grave: true });
const slight = (words: string): Said => ({ words, grave: false });

function leafFaults(test: LeafTest): Said[] {
  const said: Said[] = [];
  const named = test.test === 'compared' ? test.subject : test;
  if ('headers' in named) {
    if (named.headers.length === 0) said.push(grave('Enter the name of a header field.'));
    // RFC 5322 section 3.6.8.
    const bad = named.headers.find((name) => !/^[!-9;-~]+$/.test(name));
    if (bad !== undefined) said.push(grave(`“${bad}” cannot be the name of a header field.`));
  }
  if (test.test === 'envelope' && test.parts.length === 0) said.push(grave('Select a part of the envelope.'));
  if (test.test === 'size') {
    if (!Number.isSafeInteger(test.octets) || test.octets < 0) said.push(grave('The size is not a number of bytes.'));
    else if (test.octets >= 2 ** 32) said.push(slight('Few servers accept a number this large.'));
  }
  const sought = 'keys' in test ? test : test.test === 'compared' ? test.by : null;
  if (sought) {
    if (sought.keys.length === 0) said.push(grave('Enter what to look for.'));
    if (sought.keys.some((key) => key.includes('\0'))) said.push(grave('A test cannot look for a NUL character.'));
  }
  return said;
}

function actionFaults(action: Action): Said[] {
  const said: Said[] = [];
  if (action.action === 'fileinto') said.push(...folderFaults(action.folder));
  if (action.action === 'redirect' && !maybeSingleAddress(action.address)) {
    said.push(grave(action.address === '' ? 'Enter an address.' : `“${action.address}” is not a complete address.`));
  }
  const flags = 'flags' in action ? (action.flags ?? []) : [];
  const bad = flags.find((flag) => !isFlag(flag));
  if (bad !== undefined) said.push(grave(`“${bad}” cannot be a flag: a keyword is one word without spaces.`));
  if (/^(add|remove)flag$/.test(action.action) && flags.length === 0) said.push(grave('Enter a flag.'));
  return said;
}

function folderFaults(folder: string): Said[] {
  if (folder.trim() === '') return [grave('The folder has no name.')];
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
  if (/[\u0000-\u001f\u007f]/.test(folder)) return [grave('The folder name contains a control character.')];
  const octets = new TextEncoder().encode(folder).length;
  return octets > LONG_FOLDER ? [slight(`Some servers reject a folder name this long (${octets} bytes).`)] : [];
}

/** System flags, and keywords, which are atoms (RFC 9051 section 9). */
const isFlag = (flag: string): boolean =>
  /^\\(seen|answered|flagged|deleted|draft)$/i.test(flag) || /^[!#$&'+,\-./0-9:;<=>?@A-Z[^_`a-z|}~]+$/.test(flag);

/** The diagnostics of the rule's script; null if a server would accept it. */
function scriptFault(rule: Rule): string | null {
  try {
    const { text } = sieveFromChain({ entries: [{ ...rule, on: true, link: 'always' }], closing: '' });
    const { script, diagnostics } = parse(text);
    const [fault] = [...diagnostics, ...check(script)];
    return fault ? wordsOf(fault) : null;
  } catch (error) {
    return error instanceof Error ? error.message : String(error);
  }
}

/** Tests proved to match every message or none. */
function meaningFaults(rule: Rule): RuleFault[] {
  const reach = new Reach({ entries: [rule], closing: '' }, new Knowledge(QUICK));
  let left = MOST_ASKED;
  const verdictOf = (tree: TestTree): keyof typeof MEANS | null => {
    if (--left < 0) return null;
    const formula = reach.maybeFormula(tree);
    if (formula === null) return null;
    const never = reach.meet([formula], null, COMPARISON);
    if (never.answer === 'impossible') return never.assumes.includes('single-fields') ? 'never once' : 'never';
    const always = reach.meet([not(formula)], null, COMPARISON);
    if (always.answer !== 'impossible') return null;
    return always.assumes.includes('single-fields') ? 'always once' : 'always';
  };
  const faults: RuleFault[] = [];
  const look = (tree: TestTree, at: string): void => {
    // Empty values are already reported.
    if (tree.kind !== 'leaf' && tree.children.length === 0) return;
    const verdict = verdictOf(tree);
    if (verdict) faults.push({ at, words: MEANS[verdict], grave: false });
    else if (tree.kind !== 'leaf') for (const [index, child] of tree.children.entries()) look(child, `${at}.${index}`);
  };
  look(rule.tests, 'tests');
  rule.unless.forEach((tree, index) => {
    look(tree, `unless.${index}`);
  });
  const asked = rule.unless.length > 0 && faults.length === 0 && !looksAtFlags(conditionOf(rule));
  if (asked && verdictOf(conditionOf(rule))?.startsWith('never')) {
    faults.push({
      at: 'unless',
      words: 'Its exceptions exempt everything that the rule tests for, so it never acts.',
      grave: false,
    });
  }
  return faults;
}

/** The most tests examined, since this runs while a rule is typed. */
const MOST_ASKED = 50;
/** For the same reason. */
const QUICK = { conflicts: 500, rounds: 60, steps: 50_000 };

const MEANS = {
  always: 'This matches every message.',
  never: 'No message can match this.',
  'always once': 'This matches every message in which no field is repeated.',
  'never once': 'Only a message in which a field is repeated can match this.',
} as const;
