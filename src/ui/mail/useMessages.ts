'use client';

import { useCallback, useEffect, useRef, useState } from 'react';
import type { MessagePage, MessageRow } from '../../server/mail/list-view';
import { call } from '../common/api';

export const PAGE = 100;

export interface Messages {
  /** Null while the first page is on its way. */
  readonly found: number | null;
  readonly failure: string | null;
  readonly rowAt: (index: number) => MessageRow | null;
  /** Asks for the pages that hold the rows from `first` to `last`. */
  readonly want: (first: number, last: number) => void;
}

/** The messages that meet a query, page by page as they come into sight. */
export function useMessages(auditId: string, query: string): Messages {
  const [found, setFound] = useState<number | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const [, redraw] = useState(0);
  const pages = useRef(new Map<number, readonly MessageRow[] | null>());
  const current = useRef('');

  const load = useCallback(
    async (page: number) => {
      if (pages.current.has(page)) return;
      const key = `${auditId}?${query}`;
      pages.current.set(page, null);
      try {
        const path = `/api/audits/${auditId}/messages?${query}${query && '&'}offset=${page * PAGE}&limit=${PAGE}`;
        const answer = (await call(path, 'GET')) as MessagePage;
        if (current.current !== key) return;
        pages.current.set(page, answer.rows);
        setFound(answer.found);
        setFailure(null);
        redraw((count) => count + 1);
      } catch (error) {
        if (current.current !== key) return;
        pages.current.delete(page);
        setFailure(error instanceof Error ? error.message : String(error));
      }
    },
    [auditId, query],
  );

  useEffect(() => {
    pages.current = new Map();
    current.current = `${auditId}?${query}`;
    setFound(null);
    void load(0);
  }, [auditId, query, load]);

  const want = useCallback(
    (first: number, last: number) => {
      for (let page = Math.floor(first / PAGE); page <= Math.floor(last / PAGE); page++) void load(page);
    },
    [load],
  );
  const rowAt = (index: number) => pages.current.get(Math.floor(index / PAGE))?.[index % PAGE] ?? null;
  return { found, failure, rowAt, want };
}
