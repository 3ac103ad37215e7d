import type { Metadata } from 'next';
import { getAudit } from '../../../../server/audits';
import { store } from '../../../../server/database/open';
import { chainOutline } from '../../../../server/views/chain';
import { offersOf } from '../../../../server/views/offers';
import { InBrowser } from '../../../../ui/common/InBrowser';
import { Mail } from '../../../../ui/mail/Mail';

export const metadata: Metadata = { title: 'Mail' };

export default async function MailPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const { simulated, rules, destinations } = chainOutline(store(), id);
  const { storedCount: total } = getAudit(store(), id);
  const offers = offersOf(store(), id);
  return (
    <InBrowser rows={rules.length}>
      <Mail
        auditId={id}
        simulated={simulated}
        total={total}
        rules={rules}
        destinations={destinations}
        offers={offers}
      />
    </InBrowser>
  );
}
