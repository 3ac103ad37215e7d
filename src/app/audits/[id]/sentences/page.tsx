import { sheetView } from '../../../../server/chain/sheet-view';
import { store } from '../../../../server/database/open';
import { Told } from '../../../../ui/told/Told';
import { titled } from '../../../titled';

export const generateMetadata = titled('sentences');

export default async function SentencesPage({ params }: PageProps<'/audits/[id]/sentences'>) {
  const { id } = await params;
  return <Told auditId={id} view={sheetView(store(), id)} />;
}
