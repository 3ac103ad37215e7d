import { redirect } from 'next/navigation';

export default async function AuditPage({ params }: PageProps<'/audits/[id]'>) {
  redirect(`/audits/${(await params).id}/chain`);
}
