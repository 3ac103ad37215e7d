import { Button, Checkbox, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import type { ServerRequest, ServerView } from '../../server/handover/mail-server';
import { formatNumber } from '../common/format';
import classes from './MailServer.module.css';

interface Props {
  readonly auditId: string;
  readonly view: ServerView;
  readonly busy: boolean;
  readonly onAsk: (request: ServerRequest) => Promise<void>;
}

/** The scripts on a server, and what can be done with them. */
export function Scripts({ auditId, view, busy, onAsk }: Props) {
  const { scripts, capabilities, done, before } = view;
  const [chosen, choose] = useState<readonly string[]>([]);
  const [name, setName] = useState('');
  const [activating, setActivating] = useState<string | null>(null);
  const mark = (one: string, isChosen: boolean) =>
    choose(isChosen ? [...chosen, one] : chosen.filter((other) => other !== one));
  return (
    <>
      {done && <p className={classes.done}>{done}</p>}
      {before !== null && (
        <p>
          Before, “{before}” ran.{' '}
          <Button
            size="compact-sm"
            variant="default"
            loading={busy}
            onClick={() => onAsk({ ask: 'activate', name: before })}
          >
            Go back to “{before}”
          </Button>
        </p>
      )}
      <h2 className={classes.heading}>
        {scripts.length === 0 ? 'No scripts are on it' : `${formatNumber(scripts.length)} scripts`}
      </h2>
      <ul className={classes.scripts}>
        {scripts.map((script) => (
          <li key={script.name}>
            <Checkbox
              size="xs"
              label={script.name}
              checked={chosen.includes(script.name)}
              onChange={(event) => mark(script.name, event.currentTarget.checked)}
            />
            {script.active ? (
              <strong>runs now</strong>
            ) : (
              <Button
                size="compact-sm"
                variant="subtle"
                aria-label={`let it run: ${script.name}`}
                onClick={() => setActivating(script.name)}
              >
                let it run
              </Button>
            )}
          </li>
        ))}
      </ul>
      {activating !== null && (
        <div className={classes.certificate} role="alertdialog" aria-label="Let another script run">
          <p>
            From now on “{activating}” decides where mail on this server goes
            {scripts.some(({ active }) => active) && `, instead of “${scripts.find(({ active }) => active)?.name}”`}.
          </p>
          <div className={classes.buttons}>
            <Button
              size="compact-sm"
              loading={busy}
              onClick={() => onAsk({ ask: 'activate', name: activating }).then(() => setActivating(null))}
            >
              Let “{activating}” run
            </Button>
            <Button size="compact-sm" variant="subtle" onClick={() => setActivating(null)}>
              Leave it
            </Button>
          </div>
        </div>
      )}
      <div className={classes.buttons}>
        <Button
          size="compact-sm"
          variant="default"
          loading={busy}
          disabled={chosen.length === 0}
          onClick={() => onAsk({ ask: 'fetch', names: chosen }).then(() => choose([]))}
        >
          Bring {chosen.length === 0 ? 'the chosen ones' : formatNumber(chosen.length)} into this audit
        </Button>
        <Button size="compact-sm" variant="default" loading={busy} onClick={() => onAsk({ ask: 'target' })}>
          Write the script for this server
        </Button>
      </div>
      <h2 className={classes.heading}>Hand the script over</h2>
      <form
        className={classes.buttons}
        onSubmit={(event) => {
          event.preventDefault();
          void onAsk({ ask: 'put', name: name.trim() }).then(() => setName(''));
        }}
      >
        <TextInput
          size="xs"
          aria-label="Under a new name"
          placeholder="under a new name"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Button size="compact-sm" type="submit" loading={busy} disabled={name.trim() === ''}>
          Hand it over
        </Button>
      </form>
      <p className={classes.soft}>
        Only a script that was verified on the <Link href={`/audits/${auditId}/export`}>export</Link> page is handed
        over. It is read back from the server, and does not run before you say so.
      </p>
      <h2 className={classes.heading}>What the server has</h2>
      <p>
        <span className={classes.soft}>It calls itself</span> {capabilities.implementation || 'nothing'}
      </p>
      <p className="mono">{capabilities.sieve.join(' ')}</p>
    </>
  );
}
