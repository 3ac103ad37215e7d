import { notFound, redirect } from 'next/navigation';
import { isConfirmed } from '../../../core/audit/grouping';
import { maybeAudit } from '../../../server/audits/audits';
import { store } from '../../../server/database/open';
import { findingsAtHand } from '../../../server/findings/set-aside';

/** An audit opens where there is something to do: at its plan once it has findings. */
export default async function AuditPage({ params }: PageProps<'/audits/[id]'>) {
  const { id } = await params;
  const audit = maybeAudit(store(), id);
  if (!audit) notFound();
  const isPlanned = findingsAtHand(store(), audit).some(isConfirmed);
  redirect(`/audits/${id}/${isPlanned ? 'plan' : 'chain'}`);
}
