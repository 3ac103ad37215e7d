'use client';

import { type UseQueryResult, useQueries } from '@tanstack/react-query';
import { useCallback, useState } from 'react';
import { messagesAnswer } from '../../server/http/answers';
import type { MessagePage, MessageRow } from '../../server/mail/list-view';
import { numberOf } from '../common/answers';
import { call } from '../common/api';

export const PAGE = 100;

export interface Messages {
  /** Null until the first page has arrived. */
  readonly found: number | null;
  readonly failure: string | null;
  readonly rowAt: (index: number) => MessageRow | null;
  /** Fetches the pages that contain the rows from `first` to `last`. */
  readonly want: (first: number, last: number) => void;
}

/**
 * The messages that match a query, fetched page by page; fetched pages are kept. Fetched anew whenever `of`, what the page
 * knows of the mail and the chain, changes identity; the rows before are shown meanwhile.
 */
export function useMessages(auditId: string, query: string, of: object): Messages {
  const key = `${auditId}?${query}`;
  const [wanted, setWanted] = useState<{ readonly key: string; readonly pages: readonly number[] }>({
    key,
    pages: [0],
  });
  const pages = wanted.key === key ? wanted.pages : [0];
  const answers = useQueries({
    queries: pages.map((page) => ({
      queryKey: ['messages', key, page, numberOf(of)],
      queryFn: ({ signal }: { signal: AbortSignal }) => pageOf(auditId, query, page, signal),
      placeholderData: (
        rows: MessagePage | undefined,
        before: { readonly queryKey: readonly unknown[] } | undefined,
      ) => (before?.queryKey[1] === key && before.queryKey[2] === page ? rows : undefined),
    })),
    combine: byPage(pages),
  });
  const want = useCallback(
    (first: number, last: number) =>
      setWanted((before) => {
        const held = before.key === key ? before.pages : [0];
        const more = numbersBetween(Math.floor(first / PAGE), Math.floor(last / PAGE)).filter(
          (page) => !held.includes(page),
        );
        return more.length === 0 && before.key === key ? before : { key, pages: [...held, ...more] };
      }),
    [key],
  );
  const rowAt = (index: number) => answers.held.get(Math.floor(index / PAGE))?.rows[index % PAGE] ?? null;
  return { found: answers.found, failure: answers.failure, rowAt, want };
}

async function pageOf(auditId: string, query: string, page: number, signal: AbortSignal): Promise<MessagePage> {
  const path = `/api/audits/${auditId}/messages?${query}${query && '&'}offset=${page * PAGE}&limit=${PAGE}`;
  return messagesAnswer.parse(await call(path, 'GET', undefined, signal));
}

const byPage = (pages: readonly number[]) => (results: readonly UseQueryResult<MessagePage>[]) => {
  const held = new Map(results.flatMap(({ data }, at) => (data ? [[pages[at] ?? 0, data] as const] : [])));
  return {
    held,
    found: [...held.values()][0]?.found ?? null,
    failure: results.find(({ error }) => error !== null)?.error?.message ?? null,
  };
};

const numbersBetween = (first: number, last: number): number[] =>
  Array.from({ length: Math.max(0, last - first + 1) }, (_, at) => first + at);
