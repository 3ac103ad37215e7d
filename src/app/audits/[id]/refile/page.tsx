import { Refusal } from '../../../../server/audits/audits';
import { store } from '../../../../server/database/open';
import { refilePlan } from '../../../../server/mail/refile-plan';
import { Refile } from '../../../../ui/refile/Refile';
import { titled } from '../../../titled';

export const generateMetadata = titled('refile');

export default async function RefilePage({ params }: PageProps<'/audits/[id]/refile'>) {
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
