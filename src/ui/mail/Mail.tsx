'use client';

import { Select, TextInput, VisuallyHidden } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { Destination } from '../../server/views/destinations';
import { formatPart } from '../common/format';
import { GatherLink } from '../common/GatherLink';
import { Notice } from '../common/Notice';
import { EvidenceTable } from './EvidenceTable';
import classes from './Mail.module.css';
import { useMessages } from './useMessages';

interface Props {
  readonly auditId: string;
  readonly simulated: boolean;
  readonly total: number;
  readonly rules: readonly { readonly id: string; readonly name: string }[];
  readonly destinations: readonly Destination[];
}

const PARTS = [
  { value: 'fired', label: 'it acts on' },
  { value: 'held', label: 'its tests hold for' },
  { value: 'reached', label: 'reach it' },
  { value: 'exempt', label: 'it exempts' },
  { value: 'stopped', label: 'end at it' },
];

/** All stored messages as a table of evidence, with what the chain does to each. */
export function Mail({ auditId, simulated, total, rules, destinations }: Props) {
  const [query, setQuery] = useQuery();
  const [search, setSearch] = useState(query.get('search') ?? '');
  const [settled] = useDebouncedValue(search, 200);
  useEffect(() => setQuery({ search: settled || null }), [settled, setQuery]);
  const messages = useMessages(auditId, query.toString());
  if (total === 0) {
    return (
      <Notice title="There is no mail yet">
        <GatherLink auditId={auditId} words="Bring in mail" />
      </Notice>
    );
  }
  const finding = query.get('finding');
  return (
    <div className={classes.page}>
      <VisuallyHidden component="h1">Stored messages</VisuallyHidden>
      <div className={classes.filters}>
        <TextInput
          size="xs"
          aria-label="Words in subject, sender or recipient"
          placeholder="words in subject, sender, recipient"
          value={search}
          onChange={(event) => setSearch(event.currentTarget.value)}
          className={classes.search}
        />
        <Select
          size="xs"
          aria-label="Where the chain puts it"
          placeholder="ends in …"
          clearable
          searchable
          disabled={!simulated}
          value={query.get('fate')}
          data={destinations.map(({ key, label }) => ({ value: key, label }))}
          onChange={(fate) => setQuery({ fate })}
        />
        <Select
          size="xs"
          aria-label="Rule"
          placeholder="rule …"
          clearable
          searchable
          disabled={!simulated}
          value={query.get('rule')}
          data={rules.map(({ id, name }) => ({ value: id, label: name }))}
          onChange={(rule) => setQuery({ rule })}
        />
        {query.get('rule') && (
          <Select
            size="xs"
            aria-label="What of the rule"
            value={query.get('part') ?? 'fired'}
            data={PARTS}
            allowDeselect={false}
            onChange={(part) => setQuery({ part })}
            className={classes.part}
          />
        )}
        <Toggle name="changed" words="changed by the draft" query={query} setQuery={setQuery} />
        <Toggle name="oddities" words="odd" query={query} setQuery={setQuery} />
        {finding && (
          <button
            type="button"
            className={classes.toggle}
            aria-pressed="true"
            onClick={() => setQuery({ finding: null })}
          >
            of one finding ×
          </button>
        )}
        <span className={classes.found}>
          {messages.failure ?? (messages.found === null ? '…' : `${formatPart(messages.found, total)} messages`)}
        </span>
        {messages.found !== null && messages.found > 0 && (
          <a href={`/api/audits/${auditId}/mbox?${query}`}>take them away</a>
        )}
      </div>
      <EvidenceTable auditId={auditId} messages={messages} destinations={destinations} />
    </div>
  );
}

interface ToggleProps {
  readonly name: string;
  readonly words: string;
  readonly query: URLSearchParams;
  readonly setQuery: (change: Record<string, string | null>) => void;
}

function Toggle({ name, words, query, setQuery }: ToggleProps) {
  const on = query.get(name) === '1';
  return (
    <button
      type="button"
      className={classes.toggle}
      aria-pressed={on}
      onClick={() => setQuery({ [name]: on ? null : '1' })}
    >
      {words}
    </button>
  );
}

/** Filters stand in the address. */
function useQuery(): [URLSearchParams, (change: Record<string, string | null>) => void] {
  const fromAddress = useSearchParams();
  const [query, set] = useState(() => new URLSearchParams(fromAddress.toString()));
  const [change] = useState(() => (parts: Record<string, string | null>) => {
    set((before) => {
      const next = new URLSearchParams(before);
      for (const [name, value] of Object.entries(parts)) {
        if (value === null) next.delete(name);
        else next.set(name, value);
      }
      if (next.toString() === before.toString()) return before;
      window.history.replaceState(null, '', next.size > 0 ? `?${next}` : window.location.pathname);
      return next;
    });
  });
  return [query, change];
}
