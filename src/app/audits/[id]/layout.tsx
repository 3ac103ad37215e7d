import { notFound } from 'next/navigation';
import { maybeAudit } from '../../../server/audits/audits';
import { store } from '../../../server/database/open';
import { Shell } from '../../../ui/shell/Shell';

export default async function AuditLayout({ params, children }: LayoutProps<'/audits/[id]'>) {
  const { id } = await params;
  const audit = maybeAudit(store(), id);
  if (!audit) notFound();
  return (
    <Shell auditId={id} name={audit.name}>
      {children}
    </Shell>
  );
}
