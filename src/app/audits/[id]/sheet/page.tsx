import { sheetView } from '../../../../server/chain/sheet-view';
import { store } from '../../../../server/database/open';
import { Sheet } from '../../../../ui/sheet/Sheet';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('sheet');

export default async function SheetPage({ params, searchParams }: PageProps<'/audits/[id]/sheet'>) {
  const { id } = await params;
  const { script } = await queryOf(searchParams);
  return <Sheet auditId={id} view={sheetView(store(), id, script ?? null)} />;
}
