'use client';

import { Button, TextInput, VisuallyHidden } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type FormEvent, useState } from 'react';
import type { GatherView } from '../../server/gather/view';
import { call, tell } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import classes from './Gather.module.css';

/** The folders of the stored mail, which can be renamed, since file names need not be folder names. */
export function Folders({ auditId, folders }: { auditId: string; folders: GatherView['folders'] }) {
  const [renamed, setRenamed] = useState<string | null>(null);
  return (
    <table className={classes.table}>
      <thead>
        <tr>
          <th>Folder</th>
          <th className={classes.number}>Messages</th>
          <th className={classes.number}>Unseen</th>
          <th>
            <VisuallyHidden>Change</VisuallyHidden>
          </th>
        </tr>
      </thead>
      <tbody>
        {folders.map(({ folder, messages, unseen }) => {
          const query = `folder=${encodeURIComponent(folder)}`;
          if (folder === renamed) {
            return (
              <tr key={folder}>
                <td colSpan={4}>
                  <Rename auditId={auditId} folder={folder} onDone={() => setRenamed(null)} />
                </td>
              </tr>
            );
          }
          return (
            <tr key={folder}>
              <td dir="auto">{folder}</td>
              <td className={classes.number}>
                <Link href={`/audits/${auditId}/mail?${query}`}>{formatNumber(messages)}</Link>
              </td>
              <td className={classes.number}>
                <Link href={`/audits/${auditId}/mail?${query}&unseen=1`}>{formatPart(unseen, messages)}</Link>
              </td>
              <td className={classes.number}>
                <TextButton aria-label={`rename ${folder}`} onClick={() => setRenamed(folder)}>
                  rename
                </TextButton>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

function Rename({ auditId, folder, onDone }: { auditId: string; folder: string; onDone: () => void }) {
  const router = useRouter();
  const [name, setName] = useState(folder);
  const save = async (event: FormEvent) => {
    event.preventDefault();
    try {
      await call(`/api/audits/${auditId}/folders`, 'POST', { from: folder, to: name });
      router.refresh();
      onDone();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <form className={classes.path} onSubmit={save}>
      <TextInput
        size="xs"
        aria-label={`New name of ${folder}`}
        value={name}
        autoFocus
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <WhyButton
        type="submit"
        size="xs"
        why={name.trim() === '' || name.trim() === folder ? 'Enter another name.' : null}
      >
        Rename
      </WhyButton>
      <Button size="xs" variant="subtle" onClick={onDone}>
        Cancel
      </Button>
    </form>
  );
}
