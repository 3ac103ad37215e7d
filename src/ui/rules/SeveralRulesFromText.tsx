'use client';

import { useMemo } from 'react';
import type { Chain } from '../../core/rules/rule';
import type { ChainView } from '../../server/views/chain';
import { InBrowser } from '../common/InBrowser';
import { SeveralRules } from './SeveralRules';

/** `view` and `chain` are JSON of `ChainView` and `Chain`, as in `ChainFromText`. */
export function SeveralRulesFromText({ auditId, view, chain }: Record<'auditId' | 'view' | 'chain', string>) {
  const read = useMemo(() => JSON.parse(view) as ChainView, [view]);
  const draft = useMemo(() => JSON.parse(chain) as Chain, [chain]);
  return (
    <InBrowser rows={read.rungs.length}>
      <SeveralRules auditId={auditId} view={read} chain={draft} />
    </InBrowser>
  );
}
