'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { mailboxAnswer } from '../../server/http/answers';
import type { MailboxContents, MailboxLogin, MailboxRequest } from '../../server/mailbox/ask';
import type { MailboxView } from '../../server/mailbox/view';
import { call, tell } from '../common/api';
import { TextButton } from '../common/TextButton';
import { Certificate } from '../server/Certificate';
import { LoginForm, STAND_IN } from '../server/LoginForm';
import { FolderChoice } from './FolderChoice';
import { LookAgain } from './LookAgain';
import { Looks } from './Looks';
import classes from './Mailbox.module.css';
import { SievePort } from './SievePort';
import { Trusted } from './Trusted';

interface Props {
  readonly auditId: string;
  readonly view: MailboxView;
  /** The ports of the built-in demo server, and whether to fill it in at once; null if not running. */
  readonly standIn: {
    readonly port: number;
    readonly sievePort: number | null;
    readonly isFilledIn: boolean;
  } | null;
}

type Untrusted = Parameters<typeof Certificate>[0]['untrusted'];
/** A request, with what it signs in with. */
type Asked = { readonly login: MailboxLogin; readonly request: MailboxRequest } | { readonly password: string };

const BLANK: MailboxLogin = {
  host: '',
  port: 993,
  security: 'tls',
  trusted: null,
  user: '',
  password: '',
  sievePort: 4190,
};
/** The ports that servers mostly have (RFC 8314 section 3). */
const PORTS = { tls: 993, starttls: 143, plain: 143 };

/** Mailbox: fetches mail and scripts from a mail server, and looks again for what is new. */
export function Mailbox({ auditId, view, standIn }: Props) {
  const { server } = view;
  const router = useRouter();
  // The password is kept in this page only, and is sent with each request.
  const ofDemo = standIn && { ...STAND_IN, port: standIn.port, sievePort: standIn.sievePort };
  const [login, setLogin] = useState<MailboxLogin>({ ...BLANK, ...(server ?? (standIn?.isFilledIn ? ofDemo : {})) });
  const [isChoosing, setChoosing] = useState(server === null);
  const [since, setSince] = useState<number | null>(server?.since ?? null);
  const [contents, setContents] = useState<MailboxContents | null>(null);
  const [waiting, setWaiting] = useState<{ readonly untrusted: Untrusted; readonly asked: Asked } | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  /** What was done besides fetching, in words. */
  const [done, setDone] = useState('');
  const [busy, setBusy] = useState(false);

  const put = (change: Partial<MailboxLogin>) => {
    const port = change.security && login.port === PORTS[login.security] ? PORTS[change.security] : login.port;
    setLogin({ ...login, port, ...change, trusted: null });
    setContents(null);
    setWaiting(null);
  };
  const ask = async (asked: Asked, trusted: string | null = null): Promise<void> => {
    setBusy(true);
    setFailure(null);
    try {
      const body =
        'login' in asked
          ? { ...asked, login: { ...asked.login, trusted: trusted ?? asked.login.trusted } }
          : { ...asked, trusted, request: { ask: 'again' } };
      const answer = mailboxAnswer.parse(await call(`/api/audits/${auditId}/mailbox`, 'POST', body));
      setWaiting('untrusted' in answer ? { untrusted: answer.untrusted, asked } : null);
      if ('folders' in answer) setContents(answer);
      if ('started' in answer) {
        setContents(null);
        setDone(answer.started);
        setChoosing(false);
        router.refresh();
      }
    } catch (error) {
      setFailure(error instanceof Error ? error.message : String(error));
    } finally {
      setBusy(false);
    }
  };
  const look = (from: number | null) => {
    setSince(from);
    void ask({ login, request: { ask: 'look', since: from } });
  };
  const forget = () =>
    call(`/api/audits/${auditId}/mailbox`, 'DELETE')
      .then(() => {
        setChoosing(true);
        router.refresh();
      })
      .catch(tell);
  const demo = ofDemo && { words: 'Fill in Maren’s mailbox', fill: () => put(ofDemo) };
  return (
    <div className={classes.page}>
      <section className={classes.side} aria-label="The mail server">
        <h1 className={classes.title}>{server ? `Mailbox of ${server.user}` : 'Fetch a mailbox to audit it here'}</h1>
        {isChoosing || !server ? (
          <>
            <p className={classes.soft}>
              Fetches mail by IMAP (RFC 9051) and reads only: nothing on the server changes. Your password is not
              stored.{' '}
              {server ? (
                <TextButton onClick={() => setChoosing(false)}>Cancel</TextButton>
              ) : (
                <>
                  Back to <Link href={`/audits/${auditId}/gather`}>imported files</Link>.
                </>
              )}
            </p>
            <LoginForm login={login} demo={demo} busy={busy} put={put} onAsk={() => look(since)}>
              <SievePort port={login.sievePort} onPort={(sievePort) => put({ sievePort })} />
            </LoginForm>
          </>
        ) : (
          <LookAgain
            server={server}
            isFetching={view.isFetching}
            busy={busy}
            onLook={(password) => ask({ password })}
            onChoose={() => setChoosing(true)}
            onForget={() => void forget()}
          />
        )}
        {failure && (
          <p role="alert" className={classes.failure}>
            {failure}
          </p>
        )}
        {done && <p>{done}</p>}
        {waiting && (
          <Certificate
            untrusted={waiting.untrusted}
            onTrust={() => void ask(waiting.asked, waiting.untrusted.fingerprint)}
          />
        )}
        <Trusted auditId={auditId} trusted={view.trusted} />
      </section>
      <section className={classes.side} aria-label="What is there" aria-live="polite">
        {contents ? (
          <FolderChoice
            contents={contents}
            before={server?.folders ?? null}
            hasRules={view.rules > 0}
            since={since}
            busy={busy}
            onCount={look}
            onFetch={(folders, scripts) => void ask({ login, request: { ask: 'fetch', folders, since, scripts } })}
          />
        ) : (
          <Looks auditId={auditId} view={view} />
        )}
      </section>
    </div>
  );
}
