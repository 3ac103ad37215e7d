import { notFound } from 'next/navigation';
import type { ReactNode } from 'react';
import { maybeAudit } from '../../../server/audits';
import { store } from '../../../server/database/open';
import { Shell } from '../../../ui/shell/Shell';

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly children: ReactNode;
}

export default async function AuditLayout({ params, children }: Props) {
  const { id } = await params;
  const audit = maybeAudit(store(), id);
  if (!audit) notFound();
  return (
    <Shell auditId={id} name={audit.name}>
      {children}
    </Shell>
  );
}
