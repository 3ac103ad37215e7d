import type { Correspondent } from '../../core/mail/people';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { maybeKnown } from './knowledge';

export interface PeopleView {
  /** Those the user has written to most come first; null while unknown. */
  readonly people: readonly Correspondent[] | null;
  readonly ownAddresses: readonly string[];
  /** Stored messages. */
  readonly stored: number;
}

export function peopleView(store: Store, auditId: string): PeopleView {
  const audit = getAudit(store, auditId);
  const { ownAddresses, storedCount: stored } = audit;
  return { people: maybeKnown(store, audit, 'people'), ownAddresses, stored };
}
