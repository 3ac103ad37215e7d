import { SingleRuns } from '../flow/single';
import { isFurther } from '../rules/further-action-nodes';
import { type Action, type ChainEntry, conditionOf, looksAtFlags, type Rule } from '../rules/rule';
import { canonicalAddress, canonicalFolder, INBOX, normalFlags } from '../sieve/interpret/fate';
import { bearsOnFlags, onlyMarks } from './destinations';

/** What a rule does, with numbers for equal parts, so that millions of pairs can be compared. */
export interface Effect {
  readonly rule: Rule;
  /** The same rule for every message. */
  readonly always: Rule;
  /** Tried whatever the rules before it did, and nothing has to be moved along with it. */
  readonly isFree: boolean;
  readonly stops: boolean;
  /** Whether it has actions that only the interpreter understands. */
  readonly isFurther: boolean;
  readonly onlyDiscards: boolean;
  readonly onlyMarks: boolean;
  readonly bearsOnFlags: boolean;
  /** The flags that it names. */
  readonly flags: readonly string[];
  /** Whether some action takes the message out of the inbox. */
  readonly cancelsKeep: boolean;
  /** Whether flags set before have no effect on what it does: it delivers nothing, or sets its own flags first. */
  readonly dropsMarks: boolean;
  /** The numbers of its actions. */
  readonly each: ReadonlySet<number>;
  /** The same for rules with the same actions in the same sequence, which end alike; counted from 0. */
  readonly number: number;
  /** Where its mail goes; null if flags or further actions decide. */
  readonly plain: Plain | null;
}

/** The effect of actions that set no flags: the same in any sequence. */
interface Plain {
  /** Numbers of folders and addresses, mostly one. */
  readonly places: readonly number[];
  /** Those of messages that only this rule matches: with the inbox, unless an action takes them out of it. */
  readonly alone: readonly number[];
}

/** The first of all parts. */
const IN_INBOX = `in ${INBOX}`;
const INBOX_NUMBER = 0;

const inFolder = (folder: string) => `in ${canonicalFolder(folder)}`;
const toAddress = (address: string) => `to ${canonicalAddress(address)}`;

/** Gives equal texts equal numbers, counted from 0. */
class Numbers {
  readonly #known: Map<string, number>;

  constructor(first: readonly string[] = []) {
    this.#known = new Map(first.map((text, number) => [text, number]));
  }

  of(text: string): number {
    const known = this.#known.get(text) ?? this.#known.size;
    this.#known.set(text, known);
    return known;
  }
}

/** The effects of entries; null for a script block. */
export function effectsOf(entries: readonly ChainEntry[]): (Effect | null)[] {
  const [parts, effects] = [new Numbers([IN_INBOX]), new Numbers()];
  return entries.map((entry, place) => effectOf(entry, entries[place + 1], parts, effects));
}

function effectOf(entry: ChainEntry, next: ChainEntry | undefined, numbers: Numbers, effects: Numbers): Effect | null {
  if (entry.kind === 'script') return null;
  const { actions, ending, link } = entry;
  const [action, ...more] = actions;
  return {
    rule: entry,
    always: { ...entry, on: true, link: 'always', tests: { kind: 'all', children: [] }, unless: [] },
    isFree: link === 'always' && !isLinked(next) && !looksAtFlags(conditionOf(entry)),
    stops: ending === 'stop',
    isFurther: actions.some(isFurther),
    onlyDiscards: actions.every(isDiscard),
    onlyMarks: onlyMarks(entry),
    bearsOnFlags: bearsOnFlags(entry),
    flags: actions.flatMap((one) => ('flags' in one && one.flags !== null ? normalFlags(one.flags) : [])),
    cancelsKeep: actions.some(cancelsKeep),
    dropsMarks: action?.action === 'setflag' || (action?.action === 'discard' && more.length === 0),
    each: new Set(actions.map((one) => numbers.of(JSON.stringify(one)))),
    number: effects.of(JSON.stringify([ending, actions])),
    plain: bearsOnFlags(entry) || actions.some(isFurther) ? null : plainOf(actions, numbers),
  };
}

const isLinked = (entry: ChainEntry | undefined): boolean => entry?.kind === 'rule' && entry.link === 'otherwise';

function plainOf(actions: readonly Action[], numbers: Numbers): Plain {
  const places = actions.flatMap((one) => {
    if (one.action === 'keep') return [INBOX_NUMBER];
    if (one.action === 'fileinto') return [numbers.of(inFolder(one.folder))];
    return one.action === 'redirect' ? [numbers.of(toAddress(one.address))] : [];
  });
  const alone = actions.some(cancelsKeep) ? places : [...places, INBOX_NUMBER];
  return { places, alone };
}

/** Whether a message that only these two rules match is treated differently when the second is tried first. */
export function differAlone(first: Effect, second: Effect): boolean {
  if (first.plain && second.plain) return plainlyDiffer(first, first.plain, second, second.plain);
  const form = formOf([first.rule, second.rule]);
  const known = differing.get(form);
  if (known !== undefined) return known;
  const found = fateOf([first, second]) !== fateOf([second, first]);
  if (differing.size >= MOST_FORMS) differing.clear();
  differing.set(form, found);
  return found;
}

const differing = new Map<string, boolean>();
const MOST_FORMS = 10_000;

/** What rules do, with numbers for folders and addresses: only which of them are equal matters. */
function formOf(rules: readonly Rule[]): string {
  const names = new Numbers([IN_INBOX]);
  return JSON.stringify(
    rules.map(({ actions, ending }) => [ending, actions]),
    (key, value: unknown) => {
      if (typeof value !== 'string') return value;
      if (key === 'folder') return names.of(inFolder(value));
      return key === 'address' ? names.of(toAddress(value)) : value;
    },
  );
}

function plainlyDiffer(first: Effect, one: Plain, second: Effect, other: Plain): boolean {
  if (first.stops && second.stops) return !(isWithin(one.alone, other.alone) && isWithin(other.alone, one.alone));
  if (!first.stops && !second.stops) return false;
  // Only the one that stops acts if it is tried first, and both do if it is tried last.
  const [stopping, before] = first.stops ? [one, other] : [other, one];
  const [stopper, earlier] = first.stops ? [first, second] : [second, first];
  if (!isWithin(before.places, stopping.alone)) return true;
  // What the one that stops would leave in the inbox, the other takes out of it.
  const isTaken = earlier.cancelsKeep && !before.places.includes(INBOX_NUMBER);
  return isTaken && !stopper.cancelsKeep && !stopping.places.includes(INBOX_NUMBER);
}

/** Whether mail goes somewhere that it would not go by the others, whether or not these keep it in the inbox. */
export function addsPlaces({ places }: Plain, others: readonly Plain[]): boolean {
  return places.some((place) => !others.some(({ alone }) => alone.includes(place)));
}

const isWithin = (few: readonly number[], many: readonly number[]): boolean => few.every((one) => many.includes(one));

/** The fate of a message that these rules match, in this sequence, and no others. */
const fateOf = (effects: readonly Effect[]): string | undefined =>
  NOTHING_TESTED.maybeRun({ entries: effects.map(({ always }) => always), closing: '' })?.(0);

/** Runs rules that match every message. */
const NOTHING_TESTED = new SingleRuns(new Map(), 1);

const isDiscard = ({ action }: Action): boolean => action === 'discard';

/** Whether an action takes the message out of the inbox unless another one keeps it there (RFC 5228 section 2.10.2). */
export const cancelsKeep = (action: Action): boolean =>
  isDiscard(action) || ((action.action === 'fileinto' || action.action === 'redirect') && !action.copy);
