import { getAudit } from '../../../../server/audits/audits';
import { chainOutline } from '../../../../server/chain/view';
import { store } from '../../../../server/database/open';
import { messageOctets } from '../../../../server/mail/download';
import { listProbes, octetsOfProbes, PROBE_LIMIT, type ProbeLine } from '../../../../server/mail/probes';
import { effortOf, mayTakeLong } from '../../../../server/threads/cost';
import { apart } from '../../../../server/threads/pool';
import { Probes } from '../../../../ui/probes/Probes';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('probes');

export default async function ProbesPage({ params, searchParams }: PageProps<'/audits/[id]/probes'>) {
  const { id } = await params;
  const { message } = await queryOf(searchParams);
  return (
    <Probes
      auditId={id}
      probes={await probesOf(id)}
      destinations={chainOutline(store(), id).destinations}
      first={message !== undefined && /^\d{1,9}$/.test(message) ? textOf(id, Number(message)) : null}
    />
  );
}

async function probesOf(id: string): Promise<ProbeLine[]> {
  const isLong = mayTakeLong(effortOf(getAudit(store(), id).draft), octetsOfProbes(store(), id));
  return isLong ? apart('probes', id) : listProbes(store(), id);
}

/** The stored message to start from; null if there is none, or if it is too large to edit. */
function textOf(id: string, number: number): string | null {
  try {
    const octets = messageOctets(store(), id, number);
    return octets.length > PROBE_LIMIT ? null : octets.toString();
  } catch {
    return null;
  }
}
