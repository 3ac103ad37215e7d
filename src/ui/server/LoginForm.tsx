import { Button, NumberInput, PasswordInput, SegmentedControl, TextInput } from '@mantine/core';
import type { Login } from '../../server/handover/mail-server';
import classes from './MailServer.module.css';

const STAND_IN = { host: 'localhost', user: 'maren', password: 'sluice-gate' };

interface Props {
  readonly login: Login;
  /** The port of the server that is played for trying this out; null where none is. */
  readonly standIn: number | null;
  readonly busy: boolean;
  readonly put: (change: Partial<Login>) => void;
  readonly onAsk: () => void;
}

/** Where the server is, how it is spoken to, and who asks. */
export function LoginForm({ login, standIn, busy, put, onAsk }: Props) {
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
      <div className={classes.buttons}>
        <Button size="compact-sm" type="submit" loading={busy} disabled={login.host.trim() === '' || login.user === ''}>
          Connect
        </Button>
        {standIn !== null && (
          <Button
            size="compact-sm"
            variant="default"
            onClick={() => put({ ...STAND_IN, port: standIn, security: 'starttls' })}
          >
            Use the built-in demo server
          </Button>
        )}
      </div>
    </form>
  );
}
