'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { Login, ServerRequest, ServerView, Untrusted } from '../../server/handover/mail-server';
import { serverAnswer } from '../../server/http/answers';
import type { MailServer as RememberedServer } from '../../server/mailbox/servers';
import { call } from '../common/api';
import { Certificate } from './Certificate';
import { LoginForm, STAND_IN } from './LoginForm';
import classes from './MailServer.module.css';
import { Scripts } from './Scripts';

interface Props {
  readonly auditId: string;
  /** The port of the built-in demo server; null if not running. */
  readonly standIn: number | null;
  /** The mailbox that the audit remembers: its scripts are on the same host. */
  readonly mailbox: Pick<RememberedServer, 'host' | 'user' | 'sievePort'> | null;
}

const BLANK: Login = { host: '', port: 4190, security: 'starttls', trusted: null, user: '', password: '' };

/**
 * Mail server: fetches the server's scripts and capabilities, which become the target; uploads the verified script and
 * activates it.
 */
export function MailServer({ auditId, standIn, mailbox }: Props) {
  // The password is kept in this page only, and is sent with each request.
  const [login, setLogin] = useState<Login>(
    mailbox ? { ...BLANK, host: mailbox.host, user: mailbox.user, port: mailbox.sievePort ?? BLANK.port } : BLANK,
  );
  const [view, setView] = useState<ServerView | null>(null);
  const [untrusted, setUntrusted] = useState<Untrusted['untrusted'] | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const put = (change: Partial<Login>) => {
    setLogin({ ...login, ...change, trusted: null });
    setView(null);
    setUntrusted(null);
  };
  const ask = async (request: ServerRequest, as: Login = login): Promise<void> => {
    setBusy(true);
    setFailure(null);
    try {
      const answer = serverAnswer.parse(await call(`/api/audits/${auditId}/server`, 'POST', { login: as, request }));
      if ('untrusted' in answer) setUntrusted(answer.untrusted);
      else {
        setUntrusted(null);
        setView(answer);
      }
    } catch (error) {
      setFailure(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  const trust = (fingerprint: string) => {
    const trusting = { ...login, trusted: fingerprint };
    setLogin(trusting);
    void ask({ ask: 'look' }, trusting);
  };
  return (
    <div className={classes.page}>
      <section className={classes.side} aria-label="The server">
        <h1 className={classes.title}>Mail server</h1>
        <p className={classes.soft}>
          Connects by ManageSieve (RFC 5804). Your sign-in details are not stored. Back to{' '}
          <Link href={`/audits/${auditId}/export`}>export</Link>.
        </p>
        <LoginForm
          login={login}
          demo={
            standIn === null
              ? null
              : { words: 'Use the built-in demo server', fill: () => put({ ...STAND_IN, port: standIn }) }
          }
          busy={busy}
          put={put}
          onAsk={() => void ask({ ask: 'look' })}
        />
        {failure && (
          <p role="alert" className={classes.failure}>
            {failure}
          </p>
        )}
        {untrusted && <Certificate untrusted={untrusted} onTrust={() => trust(untrusted.fingerprint)} />}
      </section>
      <section className={classes.side} aria-label="Scripts and capabilities" aria-live="polite">
        {view ? (
          <Scripts auditId={auditId} view={view} busy={busy} onAsk={ask} />
        ) : (
          <p className={classes.soft}>Connect to see the scripts on the server.</p>
        )}
      </section>
    </div>
  );
}
