import { Refusal } from '../../../../server/audits/audits';
import { store } from '../../../../server/database/open';
import { refileScopeShape } from '../../../../server/http/shapes';
import { refilePlan } from '../../../../server/mail/refile-plan';
import { Refile } from '../../../../ui/refile/Refile';
import { titled } from '../../../titled';

export const generateMetadata = titled('refile');

export default async function RefilePage({ params, searchParams }: PageProps<'/audits/[id]/refile'>) {
  const { id } = await params;
  return <Refile auditId={id} plan={planOf(id, await searchParams)} />;
}

/** Null while the chain is not simulated. */
function planOf(id: string, search: Record<string, string | string[] | undefined>) {
  const scope = refileScopeShape.safeParse(search);
  try {
    return refilePlan(store(), id, scope.success ? scope.data : { mail: 'all' });
  } catch (error) {
    if (error instanceof Refusal && error.status === 409) return null;
    throw error;
  }
}
