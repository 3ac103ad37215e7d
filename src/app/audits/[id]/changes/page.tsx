import { notFound } from 'next/navigation';
import { Refusal } from '../../../../server/audits/audits';
import { compareShape } from '../../../../server/http/shapes';
import { pageView } from '../../../../server/threads/page-data';
import { Changes } from '../../../../ui/changes/Changes';
import { queryOf } from '../../../query';
import { titled } from '../../../titled';

export const generateMetadata = titled('changes');

export default async function ChangesPage({ params, searchParams }: PageProps<'/audits/[id]/changes'>) {
  const { id } = await params;
  const { before = 'baseline', after = 'draft' } = await queryOf(searchParams);
  const refOf = (text: string) => (/^\d{1,9}$/.test(text) ? Number(text) : text);
  const refs = compareShape.safeParse({ before: refOf(before), after: refOf(after) });
  const view = refs.success ? await maybeView(id, refs.data) : null;
  if (!view) notFound();
  return <Changes key={`${before} ${after}`} auditId={id} view={view} />;
}

/** Null where there is no such version. */
async function maybeView(id: string, { before, after }: ReturnType<typeof compareShape.parse>) {
  try {
    return await pageView('changes', id, before, after);
  } catch (error) {
    if (error instanceof Refusal && error.status === 404) return null;
    throw error;
  }
}
