import { PasswordInput } from '@mantine/core';
import { useState } from 'react';
import type { MailboxView } from '../../server/mailbox/view';
import { formatDay, formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import classes from './Mailbox.module.css';

interface Props {
  readonly server: NonNullable<MailboxView['server']>;
  readonly isFetching: boolean;
  readonly busy: boolean;
  readonly onLook: (password: string) => Promise<void>;
  /** Chooses other folders, or another mailbox. */
  readonly onChoose: () => void;
  readonly onForget: () => void;
}

/** The remembered mailbox, and the password to look again. */
export function LookAgain({ server, isFetching, busy, onLook, onChoose, onForget }: Props) {
  const [password, setPassword] = useState('');
  const { user, host, port, folders, since, sievePort } = server;
  return (
    <>
      <p className={classes.lead} dir="auto">
        {user} on {host}
      </p>
      <p className={classes.soft}>
        Port {port}. {formatNumber(folders.length)} {folders.length === 1 ? 'folder' : 'folders'}
        {since === null ? '' : `, mail since ${formatDay(since)}`}
        {sievePort === null ? '' : ', and the script in use'}. Reads only: nothing on the server changes.
      </p>
      <form
        className={classes.again}
        onSubmit={(event) => {
          event.preventDefault();
          void onLook(password);
        }}
      >
        <PasswordInput
          size="xs"
          label="Password"
          description="not stored"
          autoComplete="off"
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
        />
        <WhyButton
          size="compact-sm"
          type="submit"
          loading={busy}
          why={isFetching ? 'Mail is being fetched.' : password === '' ? 'Enter the password.' : null}
        >
          Look again
        </WhyButton>
      </form>
      <p className={classes.links}>
        <TextButton onClick={onChoose}>choose other folders or another mailbox</TextButton>
        <TextButton onClick={onForget}>forget this mailbox</TextButton>
      </p>
    </>
  );
}
