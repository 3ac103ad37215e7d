'use client';

import { Select } from '@mantine/core';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { GatherView } from '../../server/gather/view';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber } from '../common/format';
import classes from './Gather.module.css';

/** The select needs a value for “any address”. */
const ANY = '(any)';

/** Sets the account of all rules at once. */
export function Concerns({ auditId, view }: { auditId: string; view: GatherView }) {
  const [wanted, setWanted] = useState<string | null>(null);
  const { concerned, ownAddresses } = view;
  const accounts = [...new Set(concerned.map(({ account }) => account ?? ANY))];
  if (concerned.length === 0 || (ownAddresses.length < 2 && accounts.every((account) => account === ANY))) return null;
  const [only] = accounts;
  const now = accounts.length === 1 && only !== undefined ? only : null;
  const others = accounts.filter((account) => account !== ANY && !ownAddresses.includes(account));
  const edits = wanted === null ? [] : editsFor(concerned, wanted === ANY ? null : wanted);
  const kept = view.keptWords.length;
  return (
    <>
      <div className={classes.concerns}>
        <span>These rules apply to</span>
        <Select
          size="xs"
          aria-label="Mail these rules apply to"
          placeholder="mail to several addresses, by rule"
          value={wanted ?? now}
          data={[
            { value: ANY, label: 'mail to any address' },
            ...[...ownAddresses, ...others].map((address) => ({ value: address, label: `mail to ${address}` })),
          ]}
          className={classes.concerned}
          onChange={(value) => setWanted(value === now ? null : value)}
        />
      </div>
      {wanted !== null && kept > 0 && (
        <p className={classes.soft}>
          {formatNumber(kept)} kept word for word name their own addresses and stay unchanged.
        </p>
      )}
      {edits.length > 0 && <ChangePreview auditId={auditId} edits={edits} why="" onDone={() => setWanted(null)} />}
    </>
  );
}

function editsFor(concerned: GatherView['concerned'], to: string | null): Edit[] {
  return concerned.flatMap(({ id, account }): Edit[] =>
    account === to ? [] : [{ kind: 'account', id, from: account, to }],
  );
}
