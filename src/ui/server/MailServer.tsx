'use client';

import { Button, Checkbox, NumberInput, PasswordInput, SegmentedControl, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import type { Login, ServerRequest, ServerView, Untrusted } from '../../server/handover/mail-server';
import { call } from '../common/api';
import classes from './MailServer.module.css';
import { Scripts } from './Scripts';

interface Props {
  readonly auditId: string;
  /** The port of the server that is played for trying this out; null where none is. */
  readonly standIn: number | null;
}

const BLANK: Login = { host: '', port: 4190, security: 'starttls', trusted: null, user: '', password: '' };
const STAND_IN = { host: 'localhost', user: 'maren', password: 'sluice-gate' };

/** A server of scripts: what it has is fetched and taken as the target, the verified script is handed over, and made active. */
export function MailServer({ auditId, standIn }: Props) {
  // The password lives in this page only, and is sent with each question.
  const [login, setLogin] = useState<Login>(BLANK);
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
      const answer = (await call(`/api/audits/${auditId}/server`, 'POST', { login: as, request })) as
        | ServerView
        | Untrusted;
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
        <h1 className={classes.title}>A server of scripts</h1>
        <p className={classes.soft}>
          It is spoken to by ManageSieve (RFC 5804). Nothing of what you sign in with is kept. Back to the{' '}
          <Link href={`/audits/${auditId}/export`}>export</Link>.
        </p>
        <form
          className={classes.form}
          onSubmit={(event) => {
            event.preventDefault();
            void ask({ ask: 'look' });
          }}
        >
          <TextInput
            size="xs"
            label="Server"
            placeholder="mail.home.example"
            value={login.host}
            onChange={(event) => put({ host: event.currentTarget.value })}
          />
          <NumberInput
            size="xs"
            label="Port"
            min={1}
            max={65_535}
            hideControls
            thousandSeparator=""
            value={login.port}
            onChange={(port) => put({ port: Number(port) || 4190 })}
          />
          <TextInput
            size="xs"
            label="User"
            autoComplete="off"
            value={login.user}
            onChange={(event) => put({ user: event.currentTarget.value })}
          />
          <PasswordInput
            size="xs"
            label="Password"
            autoComplete="off"
            value={login.password}
            onChange={(event) => put({ password: event.currentTarget.value })}
          />
          <SegmentedControl<Login['security']>
            size="xs"
            aria-label="How the line is secured"
            value={login.security}
            data={[
              { value: 'starttls', label: 'secured after the greeting' },
              { value: 'tls', label: 'secured at once' },
              { value: 'plain', label: 'not secured' },
            ]}
            onChange={(security) => put({ security })}
          />
          {login.security === 'plain' && (
            <p className={classes.warning}>
              Anybody on the way can read the password. This is for a server on this machine.
            </p>
          )}
          <div className={classes.buttons}>
            <Button
              size="compact-sm"
              type="submit"
              loading={busy}
              disabled={login.host.trim() === '' || login.user === ''}
            >
              Ask the server
            </Button>
            {standIn !== null && (
              <Button
                size="compact-sm"
                variant="default"
                onClick={() => put({ ...STAND_IN, port: standIn, security: 'starttls' })}
              >
                Use the one that is played here
              </Button>
            )}
          </div>
        </form>
        {failure && (
          <p role="alert" className={classes.failure}>
            {failure}
          </p>
        )}
        {untrusted && <Certificate untrusted={untrusted} onTrust={() => trust(untrusted.fingerprint)} />}
      </section>
      <section className={classes.side} aria-label="What it has" aria-live="polite">
        {view ? (
          <Scripts auditId={auditId} view={view} busy={busy} onAsk={ask} />
        ) : (
          <p className={classes.soft}>Its scripts are shown here once it was asked.</p>
        )}
      </section>
    </div>
  );
}

/** A certificate that nobody vouches for: the user looks at it, and says whether it is the right one. */
function Certificate({ untrusted, onTrust }: { untrusted: Untrusted['untrusted']; onTrust: () => void }) {
  const [seen, setSeen] = useState(false);
  return (
    <section className={classes.certificate} aria-label="The certificate">
      <p>
        <strong>The certificate of this server cannot be trusted</strong>: {untrusted.reason}
        {untrusted.subject && `, for “${untrusted.subject}”`}. Nothing was said to it yet. Ask whoever runs the server
        whether this is its fingerprint (SHA-256):
      </p>
      <p className="mono">{untrusted.fingerprint}</p>
      <Checkbox
        size="xs"
        label="I have compared it, and it is the right one"
        checked={seen}
        onChange={(event) => setSeen(event.currentTarget.checked)}
      />
      <Button size="compact-sm" variant="default" disabled={!seen} onClick={onTrust}>
        Trust this one certificate
      </Button>
    </section>
  );
}
