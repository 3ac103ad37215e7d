import { redirect } from 'next/navigation';

export default async function AuditPage({ params }: { params: Promise<{ id: string }> }) {
  redirect(`/audits/${(await params).id}/chain`);
}
