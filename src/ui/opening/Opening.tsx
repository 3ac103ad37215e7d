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
import { useDrops } from '../common/useDrops';
import { AuditLine, type AuditView } from './AuditLine';
import { beginWith, createAudit } from './beginning';
import classes from './Opening.module.css';

/** The first page: what this is for, the audits there are, and how to begin one. */
export function Opening({ audits }: { audits: readonly AuditView[] }) {
  const router = useRouter();
  const form = useForm({
    initialValues: { name: '' },
    validate: (values) => {
      const checked = auditNameShape.safeParse(values);
      return checked.success ? {} : { name: `Give the audit a name: ${checked.error.issues[0]?.message}.` };
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
  return (
    <main className={classes.page}>
      <h1 className={classes.title}>Ysomeris</h1>
      <p className={classes.lead}>
        Bring in the rules that sort your incoming mail and the mail you have kept. See what each rule really does,
        where two of them meet, and which can never act; mend them with every effect known beforehand; take away a Sieve
        script that was run on all of that mail.
      </p>
      <DropAnywhere openRef={openPicker} onDrop={drops.drop} words="Drop it here to begin an audit with it" />
      <div className={classes.drop}>
        <div>
          <strong>{sending ? `Sending “${sending}” …` : 'Drop your rules and your mail here'}</strong>
          <p>
            Rules as Sieve scripts, Sieve in XML, a sheet (CSV) or JSON; mail as mbox files, single messages (.eml),
            Maildir folders, or archives of them. They begin an audit of their own. An audit that was taken away (.json)
            is opened as it was.
          </p>
        </div>
        <Button onClick={() => openPicker.current?.()}>Choose files</Button>
      </div>
      <OrderOfRules drops={drops} />
      <form onSubmit={begin} className={classes.form}>
        <TextInput
          label="Begin an audit"
          description="and type the rules in, or fetch them from a server"
          placeholder="My rules, autumn"
          className={classes.name}
          {...form.getInputProps('name')}
        />
        <Button type="submit" variant="default">
          Begin
        </Button>
      </form>
      <section>
        <h2 className={classes.heading}>Audits</h2>
        {audits.length === 0 && <p>There is none yet.</p>}
        <ul className={classes.list}>
          {audits.map((audit) => (
            <AuditLine key={audit.id} audit={audit} />
          ))}
        </ul>
      </section>
      <p className={classes.fine}>
        All data stays on this machine. Nothing here touches your real mailbox.{' '}
        <Link href="/help">What the audit says, and how sure it is</Link>
      </p>
    </main>
  );
}
