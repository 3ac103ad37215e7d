'use client';

import { Button, TagsInput, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { type FormEvent, useRef, useState } from 'react';
import { call, tell } from '../common/api';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import classes from './Gather.module.css';

interface FileButtonProps {
  readonly words: string;
  /** The label for screen readers. */
  readonly label: string;
  readonly onFile: (file: File) => void;
}

/** Opens the file chooser. */
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

/** A field for a path on the server's machine, whose mail need not be uploaded. */
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
      <WhyButton
        type="submit"
        size="xs"
        variant="default"
        why={path.trim() === '' ? 'Enter a path.' : null}
        loading={sending}
      >
        Import
      </WhyButton>
    </form>
  );
}

interface OwnAddressesProps {
  readonly auditId: string;
  readonly addresses: readonly string[];
  readonly confirmed: boolean;
}

/** The user's own addresses: found in the mail, confirmed here. */
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
          ? 'Confirmed by you.'
          : 'Found in the delivery fields of your mail. Check that all of them are yours and none is missing.'}
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
        <Button size="compact-sm" variant="default" mt={6} onClick={save} loading={saving}>
          {changed ? 'Save' : 'Confirm'}
        </Button>
      )}
    </>
  );
}
