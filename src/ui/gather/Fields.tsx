'use client';

import { Button, TagsInput, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { type FormEvent, useRef, useState } from 'react';
import { call, tell } from '../common/api';
import { TextButton } from '../common/TextButton';
import classes from './Gather.module.css';

interface FileButtonProps {
  readonly words: string;
  /** What a screen reader says of it. */
  readonly label: string;
  readonly onFile: (file: File) => void;
}

/** Asks for a file of the user's machine. */
export function FileButton({ words, label, onFile }: FileButtonProps) {
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <TextButton aria-label={label} onClick={() => picker.current?.click()}>
        {words}
      </TextButton>
      <input
        ref={picker}
        type="file"
        hidden
        onChange={(event) => {
          const [file] = event.currentTarget.files ?? [];
          if (file) onFile(file);
          event.currentTarget.value = '';
        }}
      />
    </>
  );
}

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

interface OwnAddressesProps {
  readonly auditId: string;
  readonly addresses: readonly string[];
  readonly confirmed: boolean;
}

/** The addresses that are the user's own: found from the mail, and confirmed here. */
export function OwnAddresses({ auditId, addresses, confirmed }: OwnAddressesProps) {
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
