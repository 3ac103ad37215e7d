'use client';

import { Button, TextInput } from '@mantine/core';
import { useForm } from '@mantine/form';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { auditNameShape } from '../../server/http/shapes';
import { tell } from '../common/api';
import { DropAnywhere } from '../common/DropAnywhere';
import { OrderOfRules } from '../common/OrderOfRules';
import { TextButton } from '../common/TextButton';
import { useDrops } from '../common/useDrops';
import { AuditLine, type AuditView } from './AuditLine';
import { beginWith, createAudit } from './beginning';
import classes from './Opening.module.css';

/** The first page: what Ysomeris is for, the audits, and how to start one. */
export function Opening({ audits, hasDemoServer }: { audits: readonly AuditView[]; hasDemoServer: boolean }) {
  const router = useRouter();
  const form = useForm({
    initialValues: { name: '' },
    validate: (values) => {
      const checked = auditNameShape.safeParse(values);
      return checked.success ? {} : { name: `Enter a name for the audit: ${checked.error.issues[0]?.message}.` };
    },
  });
  const [sending, setSending] = useState<string | null>(null);
  const openPicker = useRef<() => void>(null);
  const drops = useDrops(async (files) => {
    try {
      const next = await beginWith(files, form.getValues().name.trim(), { sending: setSending, refused: tell });
      if (next) router.push(next);
    } catch (error) {
      tell(error);
    } finally {
      setSending(null);
    }
  });
  const begin = form.onSubmit(async ({ name }) => {
    try {
      router.push(`/audits/${await createAudit(name)}/gather`);
    } catch (error) {
      tell(error);
    }
  });
  const fetchDemo = async () => {
    try {
      router.push(`/audits/${await createAudit('Maren’s mailbox')}/mailbox?demo=1`);
    } catch (error) {
      tell(error);
    }
  };
  return (
    <main className={classes.page}>
      <h1 className={classes.title}>Ysomeris</h1>
      <p className={classes.lead}>
        Import the rules that sort your incoming mail, and the mail you have kept. See what each rule really does, where
        rules overlap, and which never act; repair them with every effect known beforehand; download a Sieve script that
        was verified on all of that mail.
      </p>
      <DropAnywhere openRef={openPicker} onDrop={drops.drop} words="Drop here to start an audit" />
      <div className={classes.drop}>
        <div>
          <strong>{sending ? `Sending “${sending}” …` : 'Drop your rules and your mail here'}</strong>
          <p>
            Rules: Sieve scripts, Sieve in XML, a sheet (CSV), sentences (.txt) or JSON. Mail: mbox files, single
            messages (.eml), Maildir folders, or archives of them. They start a new audit. An exported audit (.json) is
            opened again.
          </p>
        </div>
        <Button onClick={() => openPicker.current?.()}>Choose files</Button>
      </div>
      <OrderOfRules drops={drops} />
      <form onSubmit={begin} className={classes.form}>
        <TextInput
          label="New audit"
          description="then type rules in, or fetch them from a mail server"
          placeholder="My rules, autumn"
          className={classes.name}
          {...form.getInputProps('name')}
        />
        <Button type="submit" variant="default">
          Create audit
        </Button>
      </form>
      <section>
        <h2 className={classes.heading}>Audits</h2>
        {audits.length === 0 && <p>No audits yet.</p>}
        <ul className={classes.list}>
          {audits.map((audit) => (
            <AuditLine key={audit.id} audit={audit} />
          ))}
        </ul>
        {hasDemoServer && (
          <p className={classes.soft}>
            To try fetching mail and rules from a server:{' '}
            <TextButton onClick={() => void fetchDemo()}>Fetch Maren’s mailbox</TextButton> from the built-in demo
            server.
          </p>
        )}
      </section>
      <p className={classes.fine}>
        All data stays on this machine. Your mailbox is never touched.{' '}
        <Link href="/help">Findings and their certainty</Link>
      </p>
    </main>
  );
}
