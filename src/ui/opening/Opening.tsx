'use client';

import { Button, TextInput } from '@mantine/core';
import { useForm } from '@mantine/form';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { GlimpseView } from '../../server/chain/view';
import { auditNameShape } from '../../server/http/shapes';
import { tell } from '../common/api';
import { DropAnywhere } from '../common/DropAnywhere';
import { OrderOfRules } from '../common/OrderOfRules';
import { TextButton } from '../common/TextButton';
import { useDrops } from '../common/useDrops';
import { AuditLine, type AuditView } from './AuditLine';
import { beginWith, createAudit } from './beginning';
import { Glimpse } from './Glimpse';
import classes from './Opening.module.css';

interface Props {
  readonly audits: readonly AuditView[];
  /** The beginning of the sample; null if there is none. */
  readonly glimpse: GlimpseView | null;
  readonly hasDemoServer: boolean;
}

/** The first page: what Ysomeris is for, the audits, and how to start one. */
export function Opening({ audits, glimpse, hasDemoServer }: Props) {
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
        See what the rules that sort your incoming mail really do to the mail you have kept, repair them with every
        effect known beforehand, and download a Sieve script that was verified on all of it.
      </p>
      <DropAnywhere openRef={openPicker} onDrop={drops.drop} words="Drop here to start an audit" />
      <div className={classes.sides} data-alone={glimpse === null || undefined}>
        <div>
          <div className={classes.drop}>
            <strong>{sending ? `Sending “${sending}” …` : 'Drop your rules and your mail here'}</strong>
            <Button onClick={() => openPicker.current?.()}>Choose files</Button>
          </div>
          <OrderOfRules drops={drops} />
          <dl className={classes.bring}>
            <dt>Rules</dt>
            <dd>
              The Sieve script of your mail server, or the rules of your mail program: exported, copied into a sheet
              (CSV), or written as sentences (.txt).
            </dd>
            <dt>Mail</dt>
            <dd>
              The folders your mail program keeps (mbox, Maildir, .eml), or the archive (.zip, .tar, .gz) in which your
              provider hands out your mail.
            </dd>
            <dt>Both at once</dt>
            <dd>Create an audit below and fetch them from your mail server; nothing changes there.</dd>
            <dt>An exported audit</dt>
            <dd>(.json) is opened again.</dd>
          </dl>
          <form onSubmit={begin} className={classes.form}>
            <TextInput
              label="New audit"
              description="then fetch from a mail server, or type rules in"
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
        </div>
        {glimpse && <Glimpse view={glimpse} />}
      </div>
      <p className={classes.fine}>
        All data stays on this machine. Your mailbox is never touched.{' '}
        <Link href="/help">Findings and their certainty</Link>
      </p>
    </main>
  );
}
