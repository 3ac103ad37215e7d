import type { Metadata } from 'next';
import { Together } from '../../../../../ui/findings/Together';

export const metadata: Metadata = { title: 'Repairs taken together' };

export default async function TogetherPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Together auditId={id} />;
}
