'use client';

import { Button, TagsInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { call, tell } from '../common/api';
import classes from './Gather.module.css';

interface Props {
  readonly auditId: string;
  readonly addresses: readonly string[];
  readonly confirmed: boolean;
}

/** The addresses that are the user's own: found from the mail, and confirmed here. */
export function OwnAddresses({ auditId, addresses, confirmed }: Props) {
  const router = useRouter();
  const [own, setOwn] = useState<string[]>([...addresses]);
  const [saving, setSaving] = useState(false);
  const changed = own.join(' ') !== addresses.join(' ');
  const save = async () => {
    setSaving(true);
    try {
      await call(`/api/audits/${auditId}/addresses`, 'PUT', { addresses: own });
      router.refresh();
    } catch (error) {
      tell(error);
    } finally {
      setSaving(false);
    }
  };
  return (
    <>
      <h2>Own addresses</h2>
      <p className={classes.soft}>
        {confirmed
          ? 'As you have confirmed them.'
          : 'Found from what your mail was delivered to. Are they all yours, and all there?'}
      </p>
      <TagsInput
        size="xs"
        aria-label="Own addresses"
        placeholder="another address"
        value={own}
        onChange={setOwn}
        splitChars={[',', ' ', ';']}
      />
      {(changed || (!confirmed && own.length > 0)) && (
        <Button size="compact-sm" mt={6} onClick={save} loading={saving}>
          {changed ? 'Keep these' : 'These are mine'}
        </Button>
      )}
    </>
  );
}
