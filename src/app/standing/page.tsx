import type { Metadata } from 'next';
import { redirect } from 'next/navigation';
import { maybeStanding } from '../../server/standing';
import { Notice } from '../../ui/common/Notice';

export const metadata: Metadata = { title: 'The database' };

/** Shown in place of every page while the database cannot be worked with; it looks again by itself. */
export default function StandingPage() {
  const standing = maybeStanding();
  if (!standing) redirect('/');
  return (
    <Notice title="Ysomeris cannot work with its database">
      <meta httpEquiv="refresh" content="5" />
      <p>{standing.what}</p>
      <p>{standing.remedy}</p>
      <p>This page looks again every five seconds. The server need not be started again.</p>
    </Notice>
  );
}
