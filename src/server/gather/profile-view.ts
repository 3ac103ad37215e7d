import type { Bitmap } from '../../core/flow/bitmap';
import type { Flow } from '../../core/flow/flow';
import { exampleUnder } from '../../core/flow/profile-example';
import { type Profile, SIEVE, unfitFor, withProfile } from '../../core/rules/profile';
import { OWN_TITLE, PROFILES, profileTitle, profileWords } from '../../core/rules/profile-words';
import { type Audit, getAudit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { anyOf } from '../changes/compare-destinations';
import type { Store } from '../database/open';
import { messagesByFolder } from '../mail/folder-messages';

/** How the rules are run, and how they could be. */
export interface ProfilesView {
  readonly current: Profile | null;
  /** The id of the choice that it is. */
  readonly currentId: string;
  /** Why the rules can only be run as Sieve runs them; none if they can be run otherwise. */
  readonly unfit: readonly string[];
  readonly choices: readonly ProfileChoice[];
}

export interface ProfileChoice {
  readonly id: string;
  readonly title: string;
  readonly profile: Profile;
  readonly words: string;
  /** Places where the message of the worked example ends. */
  readonly example: readonly string[];
  /** Of the messages that rules act on: how many lie where this way puts them; null while they are not simulated. */
  readonly agreement: Agreement | null;
}

interface Agreement {
  readonly lying: number;
  readonly of: number;
  /** The same as a share, where a message that this way puts into several places counts less: from 0 to 1. */
  readonly fit: number;
}

export function profilesView(store: Store, auditId: string): ProfilesView {
  const audit = getAudit(store, auditId);
  const { draft } = audit;
  const current = draft.profile ?? null;
  const unfit = unfitFor(draft);
  const own = { id: 'own', title: OWN_TITLE, profile: current ?? SIEVE };
  const folders = draft.entries.length > 0 ? messagesByFolder(store, audit) : new Map<string, Bitmap>();
  const choices = [...PROFILES, ...(profileTitle(own.profile) === OWN_TITLE ? [own] : [])].map(
    (choice): ProfileChoice => {
      const isRun = unfit.length === 0 || choice.id === 'sieve';
      // If all stored mail is in one folder, it does not show where the program files mail.
      const agreement = isRun && folders.size > 1 ? agreementOf(store, audit, choice.profile, folders) : null;
      return { ...choice, words: profileWords(choice.profile), example: exampleUnder(choice.profile), agreement };
    },
  );
  return {
    current,
    currentId: choices.find(({ title }) => title === profileTitle(own.profile))?.id ?? 'own',
    unfit,
    choices,
  };
}

/** A way of running the rules that explains where the stored mail is better than the one that is set. */
export interface BetterProfile {
  readonly title: string;
  /** Of the messages that rules act on: those that are where this way puts them, and where the present way does. */
  readonly lying: number;
  readonly of: number;
  readonly now: { readonly lying: number; readonly of: number };
}

/** Differences below this share of the mail are chance, or mail that was moved by hand. */
const MUCH = 0.1;

/** Null if no way is much better, or none is known to be. */
export function maybeBetterProfile(store: Store, auditId: string): BetterProfile | null {
  const { choices, currentId } = profilesView(store, auditId);
  const now = choices.find(({ id }) => id === currentId)?.agreement;
  if (!now || now.of === 0) return null;
  let [best, fit]: [BetterProfile | null, number] = [null, now.fit + MUCH];
  for (const { title, agreement } of choices) {
    if (!agreement || agreement.fit < fit) continue;
    [best, fit] = [{ title, lying: agreement.lying, of: agreement.of, now }, agreement.fit];
  }
  return best;
}

function agreementOf(
  store: Store,
  audit: Audit,
  profile: Profile,
  folders: ReadonlyMap<string, Bitmap>,
): ProfileChoice['agreement'] {
  const flow: Flow | null = maybeFlow(store, audit, withProfile(audit.draft, profile));
  if (!flow) return null;
  const acted = anyOf(flow, 'fired');
  const places = new Uint8Array(audit.messageCount);
  for (const { messages } of flow.fates.folders.values()) {
    for (const number of messages.members()) places[number] = Math.min(255, (places[number] ?? 0) + 1);
  }
  let [lying, weight] = [0, 0];
  for (const [folder, stored] of folders) {
    const put = flow.fates.folders.get(folder)?.messages;
    if (!put) continue;
    for (const number of put.and(stored).and(acted).members()) {
      lying++;
      weight += 1 / (places[number] ?? 1);
    }
  }
  const of = acted.count();
  return { lying, of, fit: of === 0 ? 0 : weight / of };
}
