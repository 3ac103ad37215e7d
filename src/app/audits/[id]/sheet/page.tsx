import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { sheetView } from '../../../../server/views/sheet';
import { Sheet } from '../../../../ui/sheet/Sheet';

export const metadata: Metadata = { title: 'Sheet' };

export default async function SheetPage({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  return <Sheet auditId={id} view={sheetView(store(), id)} />;
}
