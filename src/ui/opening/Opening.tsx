'use client';

import { Button, TextInput } from '@mantine/core';
import { Dropzone } from '@mantine/dropzone';
import { useForm } from '@mantine/form';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import { z } from 'zod';
import { auditNameShape } from '../../server/shapes';
import { call, readAnswer, tell } from '../common/api';
import { formatDay, messagesWord } from '../common/format';
import { sendFile } from '../common/sendFile';
import classes from './Opening.module.css';

interface AuditLine {
  readonly id: string;
  readonly name: string;
  readonly messageCount: number;
  readonly createdAt: number;
  /** Whether it is the made-up one. */
  readonly isDemo: boolean;
}

const created = z.object({ id: z.string() });

/** The first page: what this is for, the audits there are, and how to begin one. */
export function Opening({ audits }: { audits: readonly AuditLine[] }) {
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
  /** Files dropped here begin an audit that is named after the first of them. */
  const drop = async (files: readonly File[]) => {
    const [first] = files;
    if (!first) return;
    try {
      if (files.length === 1 && /\.json$/i.test(first.name)) {
        setSending(first.name);
        const answer = await fetch('/api/archive', { method: 'POST', body: first });
        router.push(`/audits/${created.parse(await readAnswer(answer)).id}/chain`);
        return;
      }
      const name = form.getValues().name.trim() || first.name.replace(/\.[^.]*$/, '') || first.name;
      const { id } = created.parse(await call('/api/audits', 'POST', { name: name.slice(0, 200) }));
      for (const file of files) {
        setSending(file.name);
        const { text, failed } = await sendFile(id, file);
        if (failed) tell(new Error(text));
      }
      router.push(`/audits/${id}/gather`);
    } catch (error) {
      tell(error);
    } finally {
      setSending(null);
    }
  };
  const begin = form.onSubmit(async ({ name }) => {
    try {
      const { id } = created.parse(await call('/api/audits', 'POST', { name }));
      router.push(`/audits/${id}/gather`);
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
      <Dropzone openRef={openPicker} onDrop={drop} activateOnClick={false} multiple className={classes.drop}>
        <div>
          <strong>{sending ? `Sending “${sending}” …` : 'Drop your rules and your mail here'}</strong>
          <p>
            Rules as Sieve scripts, Sieve in XML, a sheet (CSV) or JSON; mail as mbox files, single messages (.eml),
            Maildir folders, or archives of them. They begin an audit of their own. An audit that was taken away (.json)
            is opened as it was.
          </p>
        </div>
        <Button onClick={() => openPicker.current?.()}>Choose files</Button>
      </Dropzone>
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
            <li key={audit.id} className={classes.line}>
              <Link href={`/audits/${audit.id}/${audit.messageCount > 0 ? 'chain' : 'gather'}`}>{audit.name}</Link>
              {audit.isDemo && <span className={classes.soft}>made up, to look around in</span>}
              <span className={classes.leader} />
              <span>{messagesWord(audit.messageCount)}</span>
              <span className={classes.day}>{formatDay(audit.createdAt)}</span>
            </li>
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
