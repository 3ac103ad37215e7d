import { maybeExamples, maybeLearned } from '../../../../server/changes/examples-view';
import { store } from '../../../../server/database/open';
import { Examples } from '../../../../ui/examples/Examples';
import { FromFiling } from '../../../../ui/examples/FromFiling';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('examples');

export default async function ExamplesPage({ params, searchParams }: PageProps<'/audits/[id]/examples'>) {
  const { id } = await params;
  const { messages } = await queryOf(searchParams);
  const numbers = messages?.split(',').flatMap(numberOf) ?? [];
  if (numbers.length === 0) return <FromFiling auditId={id} view={maybeLearned(store(), id)} />;
  return <Examples key={numbers.join()} auditId={id} view={maybeExamples(store(), id, numbers)} />;
}

const numberOf = (text: string): number[] => (/^\d{1,9}$/.test(text) ? [Number(text)] : []);
