'use client';

import { Checkbox, VisuallyHidden } from '@mantine/core';
import Link from 'next/link';
import { useMemo, useState } from 'react';
import { discarding } from '../../core/repair/unwanted';
import type { UnwantedRow } from '../../server/changes/learned-view';
import { formatNumber } from '../common/format';
import { AddRules } from '../typed/AddRules';
import classes from './Examples.module.css';

interface Props {
  readonly auditId: string;
  readonly senders: readonly UnwantedRow[];
  /** The number of entries of the draft. */
  readonly entries: number;
}

/** Unwanted mail that offers no way to unsubscribe: ticked senders are discarded by one rule. */
export function Unwanted({ auditId, senders, entries }: Props) {
  const [out, leaveOut] = useState<ReadonlySet<string>>(new Set());
  const rules = useMemo(() => {
    const addresses = senders.flatMap(({ address }) => (out.has(address) ? [] : [address]));
    return addresses.length === 0 ? [] : [discarding(addresses)];
  }, [senders, out]);
  if (senders.length === 0) return null;
  const toggle = (address: string) => {
    const next = new Set(out);
    if (!next.delete(address)) next.add(address);
    leaveOut(next);
  };
  return (
    <section aria-label="Unwanted mail">
      <h2 className={classes.heading}>
        {formatNumber(senders.length)} {senders.length === 1 ? 'sender offers' : 'senders offer'} no way to unsubscribe
      </h2>
      <p>
        You threw all their mail away, or left it unread for a month, and never wrote to them. Such mail is discarded by
        the exact address, before any other rule.
      </p>
      <table className={classes.learned} aria-label="Senders of unwanted mail">
        <thead>
          <tr>
            <th>
              <VisuallyHidden>Discard</VisuallyHidden>
            </th>
            <th>Sender</th>
            <th>messages</th>
            <th>left unread</th>
            <th>thrown away</th>
          </tr>
        </thead>
        <tbody>
          {senders.map(({ address, messages, unread, thrown }) => (
            <tr key={address}>
              <td>
                <Checkbox
                  size="xs"
                  aria-label={`Discard mail from ${address}`}
                  checked={!out.has(address)}
                  onChange={() => toggle(address)}
                />
              </td>
              <td>
                <bdi>{address}</bdi>
              </td>
              <td>
                <Link href={`/audits/${auditId}/mail?from=${encodeURIComponent(address)}`}>
                  {formatNumber(messages)}
                </Link>
              </td>
              <td>{formatNumber(unread)}</td>
              <td>{formatNumber(thrown)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <AddRules
        auditId={auditId}
        entries={entries}
        isFirst
        rules={rules}
        obstacle={null}
        why="Their mail is unwanted and offers no way to unsubscribe."
        onAdded={() => {}}
      />
    </section>
  );
}
