import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { sheetView } from '../../../../server/views/sheet';
import { Sheet } from '../../../../ui/sheet/Sheet';

export const metadata: Metadata = { title: 'Sheet' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ script?: string }>;
}

export default async function SheetPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { script } = await searchParams;
  return <Sheet auditId={id} view={sheetView(store(), id, typeof script === 'string' ? script : null)} />;
}
