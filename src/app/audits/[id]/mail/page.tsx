import { getAudit } from '../../../../server/audits/audits';
import { chainOutline } from '../../../../server/chain/view';
import { store } from '../../../../server/database/open';
import { offersOf } from '../../../../server/mail/filters-view';
import { unsubscribingWords } from '../../../../server/mail/unsubscribing';
import { textOf } from '../../../../ui/common/textOf';
import { MailFromText } from '../../../../ui/mail/Mail';
import { titled } from '../../../titled';

export const generateMetadata = titled('mail');

export default async function MailPage({ params }: PageProps<'/audits/[id]/mail'>) {
  const { id } = await params;
  const { simulated, rules, destinations } = chainOutline(store(), id);
  const audit = getAudit(store(), id);
  const offers = offersOf(store(), id);
  const unsubscribing = unsubscribingWords(store(), audit);
  const text = textOf({
    auditId: id,
    simulated,
    total: audit.storedCount,
    rules,
    destinations,
    offers,
    unsubscribing,
  });
  return <MailFromText rules={rules.length} text={text} />;
}
