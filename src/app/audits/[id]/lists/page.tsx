import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { listsView } from '../../../../server/views/lists';
import { Lists } from '../../../../ui/lists/Lists';

export const metadata: Metadata = { title: 'Lists' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ messages?: string | string[] }>;
}

export default async function ListsPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { messages } = await searchParams;
  const numbers = typeof messages === 'string' ? messages.split(',').slice(0, 1000) : [];
  const asked = numbers.flatMap((text) => (/^\d{1,9}$/.test(text) ? [Number(text)] : []));
  return <Lists auditId={id} view={listsView(store(), id, asked)} />;
}
