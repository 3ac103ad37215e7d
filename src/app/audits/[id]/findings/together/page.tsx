import { Together } from '../../../../../ui/findings/Together';
import { titled } from '../../../../titled';

export const generateMetadata = titled('findings/together');

export default async function TogetherPage({ params }: PageProps<'/audits/[id]/findings/together'>) {
  const { id } = await params;
  return <Together auditId={id} />;
}
