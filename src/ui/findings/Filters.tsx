'use client';

import { Select } from '@mantine/core';
import Link from 'next/link';
import { usePathname, useRouter } from 'next/navigation';
import { KINDS } from '../../core/audit/kind-words';
import { keysOf } from '../../core/text/lookup';
import type { FindingsQuery, FindingsView } from '../../server/findings/list-view';
import { VIEWS, type ViewPath } from '../../views';
import { formatNumber } from '../common/format';
import classes from './Findings.module.css';
import { CERTAINTY_NAMES, CONSEQUENCE_WORDS } from './finding-words';

/** The filters, kept in the address: kind, rule, consequence, certainty, confirmed or possible. */
export function Filters({ view, query }: { view: FindingsView; query: FindingsQuery }) {
  const router = useRouter();
  const path = usePathname();
  const { counts } = view;
  const set = (name: keyof FindingsQuery, value: string | null) => {
    const next = { ...query, [name]: value ?? undefined };
    const parts = Object.entries(next).flatMap(([key, one]) => (one ? [[key, String(one)] as const] : []));
    const search = new URLSearchParams(Object.fromEntries(parts)).toString();
    router.replace(search === '' ? path : `${path}?${search}`, { scroll: false });
  };
  const field = (
    name: keyof FindingsQuery,
    label: string,
    data: { value: string; label: string }[],
    { search = false, otherwise = null }: { search?: boolean; otherwise?: string | null } = {},
  ) => (
    <Select
      size="xs"
      aria-label={label}
      placeholder={label.replace('any ', '')}
      title={label}
      style={{ flexGrow: query[name] !== undefined || otherwise !== null ? 1.5 : 1 }}
      data={data}
      value={query[name] ?? otherwise}
      onChange={(value) => set(name, value === otherwise ? null : value)}
      clearable={otherwise === null}
      allowDeselect={otherwise === null}
      searchable={search}
      comboboxProps={{ width: 'max-content', position: 'bottom-start' }}
    />
  );
  return (
    <div className={classes.filters}>
      {field(
        'basis',
        'confirmed or possible',
        [
          { value: 'stored', label: `confirmed: ${formatNumber(counts.bases.stored)}` },
          { value: 'made-up', label: `possible only: ${formatNumber(counts.bases.madeUp)}` },
          { value: 'all', label: `both: ${formatNumber(counts.all)}` },
        ],
        { otherwise: 'stored' },
      )}
      {field(
        'consequence',
        'any consequence',
        keysOf(CONSEQUENCE_WORDS).map((value) => ({
          value,
          label: `${CONSEQUENCE_WORDS[value]}: ${formatNumber(counts.consequences[value] ?? 0)}`,
        })),
      )}
      {field(
        'kind',
        'any kind',
        keysOf(KINDS).flatMap((value) =>
          counts.kinds[value] ? [{ value, label: `${KINDS[value].title}: ${formatNumber(counts.kinds[value])}` }] : [],
        ),
        { search: true },
      )}
      {field(
        'rule',
        'any rule',
        view.rules.map(({ id, name }) => ({ value: id, label: name })),
        { search: true },
      )}
      {field(
        'certainty',
        'any certainty',
        keysOf(CERTAINTY_NAMES).flatMap((value) =>
          counts.certainties[value]
            ? [{ value, label: `${CERTAINTY_NAMES[value]}: ${formatNumber(counts.certainties[value])}` }]
            : [],
        ),
      )}
      {(counts.aside > 0 || query.aside) && (
        <button
          type="button"
          className={classes.asideButton}
          aria-pressed={query.aside !== undefined}
          onClick={() => set('aside', query.aside ? null : '1')}
        >
          set aside {formatNumber(counts.aside)}
        </button>
      )}
    </div>
  );
}

const PAGES = VIEWS.filter(({ place }) => place === 'findings');

/** Links to the pages of Findings. */
export function Tabs({ auditId, current }: { auditId: string; current: ViewPath }) {
  return (
    <nav className={classes.tabs} aria-label="Pages of findings">
      {PAGES.map(({ path, title }) => (
        <Link key={path} href={`/audits/${auditId}/${path}`} aria-current={path === current ? 'page' : undefined}>
          {title}
        </Link>
      ))}
    </nav>
  );
}
