'use client';

import { Button, TextInput } from '@mantine/core';
import { type FormEvent, useState } from 'react';
import classes from './Gather.module.css';

/** For mail that lies on the machine of the server already: it need not be sent. */
export function PathField({ onSend }: { onSend: (path: string) => Promise<void> }) {
  const [path, setPath] = useState('');
  const [sending, setSending] = useState(false);
  const send = async (event: FormEvent) => {
    event.preventDefault();
    setSending(true);
    await onSend(path.trim());
    setSending(false);
    setPath('');
  };
  return (
    <form className={classes.path} onSubmit={send}>
      <TextInput
        size="xs"
        aria-label="Path of a file or folder on this machine"
        placeholder="or a path on this machine"
        value={path}
        onChange={(event) => setPath(event.currentTarget.value)}
      />
      <Button type="submit" size="xs" variant="default" disabled={path.trim() === ''} loading={sending}>
        Read it
      </Button>
    </form>
  );
}
