import { type Applied, applied, appliedChain, type Balance, balanceOf } from '../../core/flow/applied';
import { Bitmap } from '../../core/flow/bitmap';
import { INBOX } from '../../core/sieve/interpret/fate';
import { elementAt } from '../../core/text/lookup';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { flowAtOnce } from '../chain/simulation';
import type { Store } from '../database/open';
import type { RefiledSelection, RefileScope } from '../http/shapes';
import { messagesByFolder } from './folder-messages';
import { maybeKnown } from './knowledge';
import { sentMessages, unreadMessages } from './traffic';

/** The effect of applying the chain, or one rule of it, to stored mail. */
export interface RefilePlan {
  readonly scope: RefileScope;
  /** The rules that can be applied alone. */
  readonly rules: readonly { readonly id: string; readonly name: string }[];
  /** The messages to which it is applied. */
  readonly total: number;
  readonly stored: number;
  /** Messages that stay where they are. */
  readonly staying: number;
  /** Sent mail, to which no rule applies. */
  readonly sent: number;
  /** Messages that would be in no place any more. */
  readonly gone: number;
  readonly moves: readonly RefileMove[];
  /** The places that change first, by how much they do. */
  readonly places: readonly PlaceBalance[];
}

export interface RefileMove {
  /** The folders where it is, and where it would be; a message may be in several. */
  readonly from: readonly string[];
  /** Empty if it would be in none: discarded, rejected, or only redirected. */
  readonly to: readonly string[];
  readonly count: number;
}

export interface PlaceBalance {
  readonly place: string;
  readonly messages: Balance;
  /** A conversation is in a place if one of its messages is; null while conversations are unknown. */
  readonly conversations: Balance | null;
  /** Null if the stored mail does not say what was read. */
  readonly unread: Balance | null;
}

/** Throws a refusal while the chain is not simulated, and for an unknown rule. */
export function refilePlan(store: Store, auditId: string, scope: RefileScope): RefilePlan {
  const audit = getAudit(store, auditId);
  const result = appliedTo(store, audit, scope);
  const sent = sentMessages(store, audit).length;
  const moves = movesOf(result);
  const total = result.taken.count();
  const moving = moves.reduce((sum, { count }) => sum + count, 0);
  const rules = audit.draft.entries.map(({ id, name }) => ({ id, name }));
  return {
    scope,
    rules,
    total,
    stored: audit.storedCount,
    staying: total - moving,
    sent,
    gone: result.gone.count(),
    moves,
    places: balancesOf(store, audit, result),
  };
}

/** Where messages are before and after. */
export function appliedTo(store: Store, audit: Audit, { rule, mail }: RefileScope): Applied {
  if (rule !== undefined && !audit.draft.entries.some(({ id }) => id === rule))
    throw new Refusal('There is no such rule.', 404);
  const flow = flowAtOnce(store, audit, appliedChain(audit.draft, rule ?? null));
  if (!flow) throw new Refusal('The chain is being simulated. Try again in a moment.', 409);
  const incoming = Bitmap.of(audit.messageCount, sentMessages(store, audit)).not();
  return applied(flow, messagesByFolder(store, audit), mail, incoming);
}

function movesOf({ before, after, taken }: Applied): RefileMove[] {
  const [from, to] = [placeLists(before, taken.size), placeLists(after, taken.size)];
  const counts = new Map<string, { from: readonly string[]; to: readonly string[]; count: number }>();
  for (const number of taken.members()) {
    const [here, there] = [elementAt(from.listOf, number), elementAt(to.listOf, number)];
    const move = { from: elementAt(from.lists, here), to: elementAt(to.lists, there) };
    if (isSameList(move.from, move.to)) continue;
    const key = `${here} ${there}`;
    const known = counts.get(key) ?? { ...move, count: 0 };
    known.count++;
    counts.set(key, known);
  }
  return [...counts.values()].sort((a, b) => b.count - a.count);
}

const isSameList = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((place) => b.includes(place));

/** The lists of places in which messages are, sorted, and the list of each. Few lists occur, so each is made once. */
function placeLists(places: ReadonlyMap<string, Bitmap>, count: number) {
  const lists: (readonly string[])[] = [[]];
  const listOf = new Uint32Array(count);
  for (const [place, held] of [...places].sort(([a], [b]) => (a < b ? -1 : 1))) {
    // The list that results from adding this place to each list.
    const longer = new Map<number, number>();
    for (const number of held.members()) {
      const before = elementAt(listOf, number);
      const known = longer.get(before) ?? lists.push([...elementAt(lists, before), place]) - 1;
      longer.set(before, known);
      listOf[number] = known;
    }
  }
  return { lists, listOf };
}

/** What is counted of messages of a place: these, their conversations, or the unread ones. */
type Counting = (messages: Bitmap, place: string, when: 'before' | 'after') => Bitmap;

function countingsOf(store: Store, audit: Audit, { flags }: Applied) {
  const none = new Bitmap(audit.messageCount);
  const roots = maybeKnown(store, audit, 'conversations');
  const unread = unreadMessages(store, audit);
  const conversations: Counting | null =
    roots &&
    ((messages) =>
      Bitmap.of(
        audit.messageCount,
        Array.from(messages.members(), (number) => roots[number] ?? number),
      ));
  const unseen: Counting | null =
    unread &&
    ((messages, place, when) => {
      const still = messages.and(unread);
      return when === 'before' ? still : still.without(flags.get(place)?.get('\\seen') ?? none);
    });
  return { messages: (messages: Bitmap) => messages, conversations, unread: unseen, roots };
}

function balancesOf(store: Store, audit: Audit, result: Applied): PlaceBalance[] {
  const none = new Bitmap(audit.messageCount);
  const { conversations, unread } = countingsOf(store, audit, result);
  const balances = Array.from(result.after, ([place, there]): PlaceBalance => {
    const here = result.before.get(place) ?? none;
    const balance = (counting: Counting) => balanceOf(counting(here, place, 'before'), counting(there, place, 'after'));
    return {
      place,
      messages: balanceOf(here, there),
      conversations: conversations && balance(conversations),
      unread: unread && balance(unread),
    };
  });
  const changed = ({ messages, unread: read }: PlaceBalance) => messages.left + messages.came + (read?.left ?? 0);
  const isInbox = ({ place }: PlaceBalance) => (place === INBOX ? 1 : 0);
  return balances.sort((a, b) => isInbox(b) - isInbox(a) || changed(b) - changed(a));
}

/** The messages of one move of the plan, or of one number of its balance. */
export function refiledMessages(store: Store, audit: Audit, selection: RefiledSelection): Bitmap {
  const result = appliedTo(store, audit, selection);
  const { before, after, taken, gone } = result;
  const none = new Bitmap(audit.messageCount);
  if ('place' in selection) {
    const { place, part, of } = selection;
    if (part === 'gone') return gone;
    const [here, there] = [before.get(place) ?? none, after.get(place) ?? none];
    const { roots, ...countings } = countingsOf(store, audit, result);
    const counting = countings[of];
    if (!counting) throw new Refusal('This is not known yet. Try again in a moment.', 409);
    const [first, last] = [counting(here, place, 'before'), counting(there, place, 'after')];
    const found = { before: first, left: first.without(last), came: last.without(first), after: last }[part];
    if (of !== 'conversations' || !roots) return found;
    const among = part === 'before' || part === 'left' ? here : there;
    const own = Array.from(among.members()).filter((number) => found.has(roots[number] ?? number));
    return Bitmap.of(audit.messageCount, own);
  }
  const [from, to] = [placeLists(before, taken.size), placeLists(after, taken.size)];
  const [wantedFrom, wantedTo] = [selection.from, selection.to].map((list) => JSON.stringify([...list].sort()));
  const numbers = [...taken.members()].filter((number) => {
    const [here, there] = [from, to].map(({ lists, listOf }) => elementAt(lists, elementAt(listOf, number)));
    return JSON.stringify(here) === wantedFrom && JSON.stringify(there) === wantedTo;
  });
  return Bitmap.of(audit.messageCount, numbers);
}
