'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { Login } from '../../server/handover/mail-server';
import type { MailServer as RememberedServer } from '../../server/mailbox/servers';
import { Certificate } from './Certificate';
import { LoginForm, STAND_IN } from './LoginForm';
import classes from './MailServer.module.css';
import { Scripts } from './Scripts';
import { useServer } from './useServer';

interface Props {
  readonly auditId: string;
  /** The built-in demo server, whose certificate is known; null if not running. */
  readonly standIn: { readonly port: number; readonly fingerprint: string | null } | null;
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
  const { connection, ask, forget } = useServer(auditId);
  const { view, untrusted, failure, busy } = connection;
  const put = (change: Partial<Login>) => {
    setLogin({ ...login, ...change, trusted: null });
    forget();
  };
  const connect = (as: Login) => {
    setLogin(as);
    void ask(as, { ask: 'look' });
  };
  return (
    <div className={classes.page}>
      <section className={classes.side} aria-label="The server">
        <h1 className={classes.title}>
          {view ? `Connected to ${login.host}` : 'Connect to your mail server to upload the script'}
        </h1>
        <p className={classes.soft}>
          Connects by ManageSieve (RFC 5804). Your sign-in details are not stored. On connecting, the server is asked
          whether it would accept the script; nothing is stored there. Back to{' '}
          <Link href={`/audits/${auditId}/export`}>export</Link>.
        </p>
        <LoginForm
          login={login}
          demo={
            standIn && {
              words: 'Use the built-in demo server',
              fill: () => connect({ ...STAND_IN, port: standIn.port, trusted: standIn.fingerprint }),
            }
          }
          busy={busy === 'asking'}
          isDone={view !== null}
          put={put}
          onAsk={() => connect(login)}
        />
        {failure && (
          <p role="alert" className={classes.failure}>
            {failure}
          </p>
        )}
        {untrusted && (
          <Certificate untrusted={untrusted} onTrust={() => connect({ ...login, trusted: untrusted.fingerprint })} />
        )}
      </section>
      <section className={classes.side} aria-label="Scripts and capabilities" aria-live="polite">
        {view ? (
          <Scripts auditId={auditId} view={view} busy={busy} onAsk={(request) => ask(login, request)} />
        ) : (
          <p className={classes.soft}>
            The scripts on the server, what it supports, and its answer to the script appear here once you are
            connected.
          </p>
        )}
      </section>
    </div>
  );
}
