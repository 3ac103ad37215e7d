import { Button, NumberInput, PasswordInput, SegmentedControl, TextInput } from '@mantine/core';
import type { ReactNode } from 'react';
import type { Login } from '../../server/handover/mail-server';
import { WhyButton } from '../common/WhyButton';
import classes from './MailServer.module.css';

/** Sign-in details of the built-in demo server. */
export const STAND_IN = { host: 'localhost', user: 'maren', password: 'sluice-gate', security: 'starttls' } as const;

interface Props {
  readonly login: Login;
  /** What fills in the built-in demo server; null if it is not running. */
  readonly demo: { readonly words: string; readonly fill: () => void } | null;
  readonly busy: boolean;
  /** Whether there is something more important to do now than to connect. */
  readonly isDone?: boolean;
  readonly put: (change: Partial<Login>) => void;
  readonly onAsk: () => void;
  /** Further fields. */
  readonly children?: ReactNode;
}

/** The address of a server, and the sign-in details. */
export function LoginForm({ login, demo, busy, isDone = false, put, onAsk, children }: Props) {
  return (
    <form
      className={classes.form}
      onSubmit={(event) => {
        event.preventDefault();
        onAsk();
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
        onChange={(port) => put({ port: Number(port) || login.port })}
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
        aria-label="Security of the connection"
        value={login.security}
        data={[
          { value: 'starttls', label: 'STARTTLS' },
          { value: 'tls', label: 'TLS from the start' },
          { value: 'plain', label: 'no encryption' },
        ]}
        onChange={(security) => put({ security })}
      />
      {login.security === 'plain' && (
        <p className={classes.warning}>
          Anyone on the network can read the password. Use this only for a server on this machine.
        </p>
      )}
      {children}
      <div className={classes.buttons}>
        <WhyButton
          size="compact-sm"
          type="submit"
          variant={isDone ? 'default' : 'filled'}
          loading={busy}
          why={login.host.trim() === '' || login.user === '' ? 'Enter a server and a user.' : null}
        >
          Connect
        </WhyButton>
        {demo && (
          <Button size="compact-sm" variant="default" onClick={demo.fill}>
            {demo.words}
          </Button>
        )}
      </div>
    </form>
  );
}
