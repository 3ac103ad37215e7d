'use client';

import { useMemo } from 'react';
import type { ChainView } from '../../server/views/chain';
import { InBrowser } from '../common/InBrowser';
import { Chain } from './Chain';

/** The view as JSON text: React serialises one string in a fraction of the time that thousands of objects take (measured). */
export function ChainFromText({ auditId, text }: { auditId: string; text: string }) {
  const view = useMemo(() => JSON.parse(text) as ChainView, [text]);
  return (
    <InBrowser rows={view.rungs.length}>
      <Chain auditId={auditId} view={view} />
    </InBrowser>
  );
}
