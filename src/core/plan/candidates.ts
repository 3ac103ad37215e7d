import { onlyMarks } from '../audit/destinations';
import type { Consequence, Finding } from '../audit/finding';
import { isConfirmed } from '../audit/grouping';
import type { FindingKind } from '../audit/kind-words';
import type { Destination } from '../fates/destination';
import type { Edit } from '../rules/edit';
import { rebase } from '../rules/rebase';
import { type Chain, conditionOf } from '../rules/rule';
import { isSame } from '../rules/same';
import { compareText } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';
import { ownFeatures } from './features';
import { agreement } from './filing';
import { silencedIn } from './silenced';
import { stepWords } from './step-words';
import { isMet, type Proposal, proposalsFor, type Wish } from './synthesis';
import type { Placed } from './trials';
import { effectOf } from './weigh';
import type { Workshop } from './workshop';

/** A change that may be meant, with what speaks for it. */
export interface Candidate extends Proposal {
  readonly title: string;
  /** Keys of the findings that it answers. */
  readonly findings: readonly string[];
  /** How likely the user means it, from 0 to 1. */
  readonly chance: number;
  /** How much is settled by knowing, in messages. */
  readonly weight: number;
}

/** What a finding weighs, in messages. */
const WEIGHT: Readonly<Record<Consequence, number>> = { lost: 6, leaked: 6, unseen: 3, misplaced: 2, clutter: 1 };
/** The most groups of messages that the user keeps in another folder than the chain files them into, and the fewest messages of one. */
const MOST_GROUPS = 40;
const LEAST = 2;
/** The most changes that are weighed for one group, and the most candidates of it. */
const MOST_WEIGHED = 24;
const MOST_OF_GROUP = 2;

/** Changes of the chain that may be meant: repairs of findings, and what the user's own filing asks for. */
export function candidatesFor(chain: Chain, findings: readonly Finding[], workshop: Workshop): Candidate[] {
  return withoutSame([
    ...fromFindings(chain, chain, findings, workshop),
    ...fromFiling(chain, workshop, [], () => true),
  ]);
}

/**
 * The same for the chain as some steps leave it: candidates that move none of the mail that the steps moved are as they
 * were, the others are worked out anew. `base` is the chain that the findings are about.
 */
export function candidatesAfter(
  { base, findings, known, before }: Earlier,
  after: Chain,
  workshop: Workshop,
  answered: readonly Wish[],
): Candidate[] {
  const { trials } = workshop;
  const [old, fresh] = [trials.placesOf(before), trials.placesOf(after)];
  const stale = new Set(old.flatMap((place, index) => (place === fresh[index] ? [] : index)));
  const isStale = ({ effect }: Candidate) => effect.moved.some(({ index }) => stale.has(index));
  const [again, kept] = [known.filter(isStale), known.filter((candidate) => !isStale(candidate))];
  const keys = new Set(again.flatMap((candidate) => candidate.findings));
  for (const { index } of again.flatMap(({ effect }) => effect.moved)) stale.add(index);
  const concerned = findings.filter(({ key }) => keys.has(key));
  return withoutSame([
    ...kept.flatMap((candidate) => {
      const found = rebase(before, candidate.edits, after);
      return found.ok ? [{ ...candidate, edits: found.edits, chain: found.chain }] : [];
    }),
    ...fromFindings(base, after, concerned, workshop),
    ...fromFiling(after, workshop, answered, (index) => stale.has(index)),
  ]);
}

/** Candidates for the chain `before`. */
export interface Earlier {
  readonly base: Chain;
  readonly findings: readonly Finding[];
  readonly known: readonly Candidate[];
  readonly before: Chain;
}

/**
 * Those that take back nothing that was answered, the ones that settle most first. `fixed` are messages like those that were
 * answered.
 */
export function openCandidates(
  candidates: readonly Candidate[],
  chain: Chain,
  answered: readonly Wish[],
  fixed: ReadonlySet<number>,
  workshop: Workshop,
): Candidate[] {
  const open = candidates.filter(
    ({ chain: after, effect }) =>
      !effect.moved.some(({ index }) => fixed.has(index)) && answered.every((wish) => isMet(after, wish, workshop)),
  );
  return withoutSame(open.map((candidate) => lessLikely(candidate, chain, answered, workshop)));
}

/** How much less likely a change is that moves only mail like a message of which the user said that it is right. */
const CONFIRMED = 0.75;

/** A message that is where the user wants it speaks for others of its sender or list that the same rules match. */
function lessLikely(candidate: Candidate, chain: Chain, answered: readonly Wish[], workshop: Workshop): Candidate {
  const { trials, messageOf, weightOf } = workshop;
  const likeOf = (index: number, place: Placed) => {
    const { sender, listId } = messageOf(index);
    return `${place.key} ${listId ?? sender} ${trials.matching(chain, index)}`;
  };
  const right = new Set(answered.map(({ index }) => likeOf(index, trials.placeOf(chain, index))));
  let [like, all] = [0, 0];
  for (const { index, before } of candidate.effect.moved) {
    all += weightOf(index);
    if (right.has(likeOf(index, before))) like += weightOf(index);
  }
  return all === 0 ? candidate : { ...candidate, chance: candidate.chance * (1 - (CONFIRMED * like) / all) };
}

function fromFindings(base: Chain, chain: Chain, findings: readonly Finding[], workshop: Workshop): Candidate[] {
  const seen = new Set<string>();
  const made = findings.flatMap((finding) => {
    // Housekeeping moves no mail.
    if (!isConfirmed(finding) || finding.consequence === 'clutter') return [];
    return finding.repairs.flatMap(({ edits, title }) => {
      // Several findings offer the same.
      if (seen.has(title)) return [];
      seen.add(title);
      const found = rebase(base, edits, chain);
      return found.ok && found.chain !== chain ? [{ finding, title, edits: found.edits, after: found.chain }] : [];
    });
  });
  workshop.trials.prepare(made.map(({ after }) => after));
  const silenced = silencedIn(workshop.trials.flow(chain));
  const aboutOf = aboutEach();
  return made.flatMap(({ finding, title, edits, after }) => {
    const effect = effectOf(workshop, [chain, after], edits);
    if (effect.count === 0) return [];
    const isRoused = edits.some((edit) => edit.kind === 'move' && edit.ids.some((id) => silenced.has(id)));
    const suspect = isRoused ? ROUSED : (SUSPECT[finding.kind] ?? UNSUSPECTED);
    const harmed = harmedIn(effect, workshop);
    const ways = waysIn(effect);
    const cost = costOf(chain, edits);
    const before = Math.log(suspect / (1 - suspect)) - cost + 1.5;
    const score = effect.evidence + before - 0.3 * ways - 4 * harmed;
    const plain = (suspect * shareOf(aboutOf(finding), effect, workshop) ** 2 * Math.exp(1.5 - cost - harmed)) / ways;
    const chance = Math.max(plain, chanceOf(score));
    const weight = effect.count + WEIGHT[finding.consequence];
    return [{ title, edits, chain: after, cost, effect, score, findings: [finding.key], chance, weight }];
  });
}

/**
 * The least chance that a finding shows what the user does not mean, by kind: what is in the way of a rule hardly ever
 * is meant, while mail is often discarded or left unread on purpose.
 */
const SUSPECT: Readonly<Partial<Record<FindingKind, number>>> = {
  shadowed: 0.4,
  'cut-short': 0.25,
  'runs-on': 0.25,
  'order-conflict': 0.25,
  'exception-bypassed': 0.15,
  'exception-uneven': 0.12,
  'exception-narrow': 0.12,
  'too-broad': 0.2,
  'too-narrow': 0.2,
  unprotected: 0.12,
  'missing-folder': 0.1,
  'forward-risk': 0.06,
  loss: 0.03,
};
const UNSUSPECTED = 0.01;
/** A rule that matches mail and never gets any of it is hardly ever meant to stand where it does. */
const ROUSED = 0.6;

/** The messages that a finding is about; several repairs of one follow each other. */
function aboutEach(): (finding: Finding) => ReadonlySet<number> {
  let last: Finding | null = null;
  let about: ReadonlySet<number> = new Set();
  return (finding) => {
    if (finding !== last) about = new Set(finding.messages);
    last = finding;
    return about;
  };
}

/** The share of the moved mail that is among these messages. */
function shareOf(about: ReadonlySet<number>, { moved }: Proposal['effect'], { sample, weightOf }: Workshop): number {
  let [inside, all] = [0, 0];
  for (const { index } of moved) {
    all += weightOf(index);
    if (about.has(elementAt(sample.messages, index))) inside += weightOf(index);
  }
  return all === 0 ? 0 : inside / all;
}

/** The order and the ending of rules go wrong more often than what they say; few people mean a rule to do nothing. */
function costOf(chain: Chain, edits: readonly Edit[]): number {
  if (edits.some((edit) => silences(edit) || exemptsMarked(chain, edit))) return 4;
  return edits.every(isOfOrder) ? 1.5 : 2.2;
}

/** Whether an edit lets a rule do nothing any more. */
export const silences = (edit: Edit): boolean =>
  (edit.kind === 'switch' && !edit.on) || (edit.kind === 'rewrite' && edit.after.length < edit.before.length);

/** Whether an edit exempts what another rule marks from one that files: the two have nothing to do with each other. */
function exemptsMarked({ entries }: Chain, edit: Edit): boolean {
  if (edit.kind !== 'rewrite') return false;
  const added = edit.after.flatMap((after) => {
    const before = edit.before.find(({ id }) => id === after.id);
    if (before?.kind !== 'rule' || after.kind !== 'rule') return [];
    return after.unless.filter((exception) => !before.unless.some((one) => isSame(one, exception)));
  });
  const marks = entries.filter((entry) => entry.kind === 'rule' && onlyMarks(entry));
  return added.some((exception) =>
    marks.some((entry) => entry.kind === 'rule' && isSame(conditionOf(entry), exception)),
  );
}

const waysIn = ({ moved }: Proposal['effect']): number => new Set(moved.map(({ way }) => way)).size;

const harmedIn = ({ moved }: Proposal['effect'], { weightOf }: Workshop): number =>
  moved.reduce((sum, { harm, index }) => (harm === 'lost' || harm === 'leaked' ? sum + weightOf(index) : sum), 0);

interface Group {
  readonly wish: Wish;
  /** Whether the chain brings the messages there too, and to another folder besides. */
  readonly isThere: boolean;
  /** Who the messages are from, unless the group is of one sender or list. */
  readonly writers: Set<string> | null;
  count: number;
  weight: number;
}

/** In a folder, and where copies of the message go now. */
export function keptAt(folder: string, { folders, redirects }: Destination, { copies }: Workshop): Destination {
  const all = [folder, ...folders.filter((other) => copies.has(other))].sort(compareText);
  return { folders: all, redirects, rejected: false };
}

/**
 * Messages that the chain puts elsewhere than the user keeps them, by both places and by sender or list; and by the rules
 * that act on them, whoever they are from.
 */
function fromFiling(
  chain: Chain,
  workshop: Workshop,
  answered: readonly Wish[],
  isWanted: (index: number) => boolean,
): Candidate[] {
  const { trials, keptIn, messageOf, weightOf } = workshop;
  const groups = new Map<string, Group>();
  trials.placesOf(chain).forEach((place, index) => {
    const kept = place && isWanted(index) ? keptIn(index) : null;
    if (!place || !kept || agreement(place.destination, kept, workshop.copies) === 1) return;
    const { sender, listId } = messageOf(index);
    const writer = listId ?? sender;
    const isThere = place.destination.folders.includes(kept.folder);
    const destination = keptAt(kept.folder, place.destination, workshop);
    const acting = [...trials.actingOn(chain, index)].sort().join(' ');
    for (const [name, writers] of [
      [`from ${writer}`, null],
      [`by ${acting}`, new Set<string>()],
    ] as const) {
      const key = JSON.stringify([place.key, kept.folder, name]);
      const group = groups.get(key) ?? { wish: { index, destination }, isThere, writers, count: 0, weight: 0 };
      group.writers?.add(writer);
      group.count += weightOf(index);
      group.weight += weightOf(index) * kept.weight;
      groups.set(key, group);
    }
  });
  const worth = [...groups.values()]
    .filter(({ count, writers }) => count >= LEAST && writers?.size !== 1)
    .sort((a, b) => b.weight - a.weight)
    .slice(0, MOST_GROUPS);
  trials.prepare(
    [],
    worth.flatMap(({ wish }) => ownFeatures(wish.index, workshop).map(({ tests }) => tests)),
  );
  return worth.flatMap(({ wish, isThere }) =>
    proposalsFor(chain, wish, workshop, answered, MOST_WEIGHED)
      .filter(({ edits }) => !isThere || edits.every(isOfOrder))
      .slice(0, MOST_OF_GROUP)
      .map((proposal) => ({
        ...proposal,
        title: stepWords(chain, proposal.edits),
        findings: [],
        chance: chanceOf(proposal.score),
        weight: proposal.effect.count,
      })),
  );
}

/** Mail is filed twice by rules in the wrong order, or by one that was meant to end the chain. */
const isOfOrder = ({ kind }: Edit): boolean => kind === 'move' || kind === 'ending';

/** How little a score tells. */
const WARMTH = 1.2;

const chanceOf = (score: number): number => 1 / (1 + Math.exp(-score / WARMTH));

/** Candidates with the same effect on the stored mail are one; the likeliest is kept. */
function withoutSame(candidates: readonly Candidate[]): Candidate[] {
  const best = new Map<string, Candidate>();
  for (const candidate of candidates) {
    const key = candidate.effect.moved.map(({ index, after }) => `${index} ${after.key}`).join();
    const known = best.get(key);
    if (!known) {
      best.set(key, candidate);
      continue;
    }
    const better = known.score >= candidate.score ? known : candidate;
    const findings = [...new Set([...known.findings, ...candidate.findings])];
    const weight = Math.max(known.weight, candidate.weight) + findings.length - 1;
    best.set(key, { ...better, findings, weight, chance: Math.max(known.chance, candidate.chance) });
  }
  return [...best.values()].sort((a, b) => b.chance * b.weight - a.chance * a.weight);
}
