import type { Metadata } from 'next';
import { maybeAudit } from '../server/audits/audits';
import { store } from '../server/database/open';
import { VIEWS, type ViewPath } from '../views';

interface Props {
  readonly params: Promise<{ id: string }>;
}

/** The title of a page of an audit: the view or its subject, then the name of the audit. */
export function titled(path: ViewPath, shown?: string): (props: Props) => Promise<Metadata> {
  const title = shown ?? VIEWS.find((view) => view.path === path)?.title;
  return async ({ params }) => {
    const audit = maybeAudit(store(), (await params).id);
    return { title: audit ? `${title} · ${audit.name}` : title };
  };
}
