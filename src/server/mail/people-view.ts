import type { Correspondent } from '../../core/mail/people';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';
import { maybeKnown } from './knowledge';

export interface PeopleView {
  /** Those the user has written to most come first; null while unknown. */
  readonly people: readonly Correspondent[] | null;
  readonly ownAddresses: readonly string[];
}

export function peopleView(store: Store, auditId: string): PeopleView {
  const audit = getAudit(store, auditId);
  return { people: maybeKnown(store, audit, 'people'), ownAddresses: audit.ownAddresses };
}
