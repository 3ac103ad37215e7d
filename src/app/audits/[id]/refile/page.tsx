import type { Metadata } from 'next';
import { Refusal } from '../../../../server/audits';
import { store } from '../../../../server/database/open';
import { refilePlan } from '../../../../server/refiling';
import { Refile } from '../../../../ui/refile/Refile';

export const metadata: Metadata = { title: 'Re-filing' };

export default async function RefilePage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Refile auditId={id} plan={planOf(id)} />;
}

/** Null while the chain is not simulated. */
function planOf(id: string) {
  try {
    return refilePlan(store(), id);
  } catch (error) {
    if (error instanceof Refusal) return null;
    throw error;
  }
}
