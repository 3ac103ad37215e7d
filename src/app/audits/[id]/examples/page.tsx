import type { Metadata } from 'next';
import { store } from '../../../../server/database/open';
import { maybeExamples, maybeLearned } from '../../../../server/views/examples';
import { Examples } from '../../../../ui/examples/Examples';
import { FromFiling } from '../../../../ui/examples/FromFiling';

export const metadata: Metadata = { title: 'From examples' };

interface Props {
  readonly params: Promise<{ id: string }>;
  readonly searchParams: Promise<{ messages?: string | string[] }>;
}

export default async function ExamplesPage({ params, searchParams }: Props) {
  const { id } = await params;
  const { messages } = await searchParams;
  const numbers = typeof messages === 'string' ? messages.split(',').flatMap(numberOf) : [];
  if (numbers.length === 0) return <FromFiling auditId={id} view={maybeLearned(store(), id)} />;
  return <Examples key={numbers.join()} auditId={id} view={maybeExamples(store(), id, numbers)} />;
}

const numberOf = (text: string): number[] => (/^\d{1,9}$/.test(text) ? [Number(text)] : []);
