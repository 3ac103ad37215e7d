import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import type { Action, Chain, ChainEntry } from '../../core/rules/rule';
import { flagWords } from '../../core/rules/sentence';
import { canonicalAddress, canonicalFolder, type Fate, INBOX, isDropped } from '../../core/sieve/interpret/fate';

/** A destination. The same key everywhere, so that it keeps one colour and one pattern. */
export interface Destination {
  readonly key: string;
  readonly label: string;
  readonly kind: 'inbox' | 'folder' | 'redirect' | 'refused' | 'dropped';
  /** Stored messages with this destination; a message may have several. */
  readonly count: number;
  /** Those of them that are unread; null if unknown. */
  readonly unread: number | null;
  /** Index into the palette; the inbox and discarded mail have fixed indices. */
  readonly tint: number;
}

export const DROPPED = 'dropped';
export const REFUSED = 'refused';
export const folderKey = (folder: string): string => (canonicalFolder(folder) === INBOX ? 'inbox' : `folder:${folder}`);
export const redirectKey = (address: string): string => `redirect:${canonicalAddress(address)}`;

/** All destinations of a chain, in the order its rules name them, with their counts. */
export function destinationsOf(chain: Chain, flow: Flow | null, unread: Bitmap | null = null): Destination[] {
  const keys = new Map<string, Pick<Destination, 'key' | 'label' | 'kind'>>();
  const add = (key: string, label: string, kind: Destination['kind']) => {
    if (!keys.has(key)) keys.set(key, { key, label, kind });
  };
  add('inbox', 'Inbox', 'inbox');
  for (const action of chain.entries.flatMap(actionsOf)) {
    if (action.action === 'fileinto') {
      if (folderKey(action.folder) !== 'inbox') add(folderKey(action.folder), action.folder, 'folder');
    } else if (action.action === 'redirect') add(redirectKey(action.address), action.address, 'redirect');
  }
  for (const folder of flow?.fates.folders.keys() ?? []) if (folder !== INBOX) add(folderKey(folder), folder, 'folder');
  if (flow && !flow.fates.rejected.isEmpty()) add(REFUSED, 'Rejected', 'refused');
  add(DROPPED, 'Discarded', 'dropped');
  let next = 0;
  return [...keys.values()].map((destination) => {
    const there = flow && messagesAt(flow, destination.key);
    return {
      ...destination,
      count: there?.count() ?? 0,
      unread: unread && (there?.and(unread).count() ?? 0),
      tint: destination.kind === 'folder' || destination.kind === 'redirect' ? next++ : -1,
    };
  });
}

function actionsOf(entry: ChainEntry): readonly Action[] {
  return entry.kind === 'rule' ? entry.actions : [];
}

/** Null if no message has it. */
function messagesAt(flow: Flow, key: string): Bitmap | null {
  if (key === DROPPED) return flow.fates.dropped();
  if (key === REFUSED) return flow.fates.rejected;
  if (key === 'inbox') return flow.fates.folders.get(INBOX)?.messages ?? null;
  if (key.startsWith('folder:')) return flow.fates.folders.get(key.slice('folder:'.length))?.messages ?? null;
  return flow.fates.redirects.get(key.slice('redirect:'.length)) ?? null;
}

/** The destinations of a rule; empty for a rule that only marks or stops. */
export function targetsOf(entry: ChainEntry): string[] {
  const keys = actionsOf(entry).flatMap((action) => {
    switch (action.action) {
      case 'keep':
        return ['inbox'];
      case 'fileinto':
        return [folderKey(action.folder)];
      case 'redirect':
        return [redirectKey(action.address)];
      case 'discard':
        return [DROPPED];
      case 'setflag':
      case 'addflag':
      case 'removeflag':
        return [];
      case 'reject':
      case 'ereject':
        return [REFUSED];
      default:
        return [];
    }
  });
  return [...new Set(keys)];
}

/** The destinations of a fate, with flags. */
export interface FateView {
  readonly places: readonly { readonly key: string; readonly label: string; readonly flags: readonly string[] }[];
}

export function fateView(fate: Fate): FateView {
  if (isDropped(fate)) return { places: [{ key: DROPPED, label: 'Discarded', flags: [] }] };
  return {
    places: [
      ...fate.deliveries.map(({ folder, flags }) => ({
        key: folderKey(folder),
        label: folder === INBOX ? 'Inbox' : folder,
        flags,
      })),
      ...fate.redirects.map((address) => ({ key: redirectKey(address), label: address, flags: [] })),
      ...(fate.rejected ? [{ key: REFUSED, label: 'Rejected', flags: [] }] : []),
      ...fate.replies.map((line) => ({
        key: line,
        label: line.startsWith('notify') ? 'notified' : 'answered',
        flags: [],
      })),
    ],
  };
}

/** A flag's word without quotation marks. */
const flagName = (flag: string): string => flagWords(flag).replace(/[“”]/g, '');

/** The destinations of a fate in one line; equal for equal destinations and flags. */
export function fateLine({ places }: FateView): string {
  return places
    .map(({ label, flags }) => (flags.length > 0 ? `${label} (${flags.map(flagName).join(', ')})` : label))
    .sort()
    .join(' + ');
}

/** The same without flags and replies. */
export function placesLine({ places }: FateView): string {
  return (
    places
      .filter(({ key }) => key === 'inbox' || key === DROPPED || key === REFUSED || /^(folder|redirect):/.test(key))
      .map(({ label }) => label)
      .sort()
      .join(' + ') || 'nowhere'
  );
}
