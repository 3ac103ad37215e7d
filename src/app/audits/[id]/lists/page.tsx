import { listsView } from '../../../../server/chain/lists-view';
import { store } from '../../../../server/database/open';
import { Lists } from '../../../../ui/lists/Lists';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('lists');

export default async function ListsPage({ params, searchParams }: PageProps<'/audits/[id]/lists'>) {
  const { id } = await params;
  const { messages } = await queryOf(searchParams);
  const numbers = messages?.split(',').slice(0, 1000) ?? [];
  const asked = numbers.flatMap((text) => (/^\d{1,9}$/.test(text) ? [Number(text)] : []));
  return <Lists auditId={id} view={listsView(store(), id, asked)} />;
}
