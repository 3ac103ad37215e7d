import { Button, Checkbox } from '@mantine/core';
import { useState } from 'react';
import type { ServerRequest, ServerView } from '../../server/handover/mail-server';
import { formatNumber } from '../common/format';
import { WhyButton } from '../common/WhyButton';
import classes from './MailServer.module.css';
import { Upload } from './Upload';
import type { Connection } from './useServer';

interface Props {
  readonly auditId: string;
  readonly view: ServerView;
  readonly busy: Connection['busy'];
  readonly onAsk: (request: ServerRequest) => Promise<void>;
}

/** The scripts on a server, and what can be done with them. */
export function Scripts({ auditId, view, busy, onAsk }: Props) {
  const { scripts, capabilities } = view;
  const [chosen, choose] = useState<readonly string[]>([]);
  const [activating, setActivating] = useState<string | null>(null);
  const mark = (one: string, isChosen: boolean) =>
    choose(isChosen ? [...chosen, one] : chosen.filter((other) => other !== one));
  return (
    <>
      <Upload auditId={auditId} view={view} busy={busy} onAsk={onAsk} />
      <h2 className={classes.heading}>
        {scripts.length === 0 ? 'No scripts on the server' : `${formatNumber(scripts.length)} scripts`}
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
              <strong>active</strong>
            ) : (
              <Button
                size="compact-sm"
                variant="subtle"
                aria-label={`activate: ${script.name}`}
                onClick={() => setActivating(script.name)}
              >
                activate
              </Button>
            )}
          </li>
        ))}
      </ul>
      {activating !== null && (
        <div className={classes.certificate} role="alertdialog" aria-label="Activate another script">
          <p>
            From now on, “{activating}” sorts the mail on this server
            {scripts.some(({ active }) => active) && `, instead of “${scripts.find(({ active }) => active)?.name}”`}.
          </p>
          <div className={classes.buttons}>
            <Button
              size="compact-sm"
              loading={busy === 'asking'}
              onClick={() => onAsk({ ask: 'activate', name: activating }).then(() => setActivating(null))}
            >
              Activate “{activating}”
            </Button>
            <Button size="compact-sm" variant="subtle" onClick={() => setActivating(null)}>
              Cancel
            </Button>
          </div>
        </div>
      )}
      <div className={classes.buttons}>
        <WhyButton
          size="compact-sm"
          variant="default"
          loading={busy === 'asking'}
          why={chosen.length === 0 ? 'Select a script above.' : null}
          onClick={() => onAsk({ ask: 'fetch', names: chosen }).then(() => choose([]))}
        >
          Import {chosen.length === 0 ? 'the selected scripts' : formatNumber(chosen.length)} into this audit
        </WhyButton>
      </div>
      <h2 className={classes.heading}>What the server supports</h2>
      <p>
        <span className={classes.soft}>Server software:</span> {capabilities.implementation || 'not announced'}
      </p>
      <p className="mono">{capabilities.sieve.join(' ')}</p>
    </>
  );
}
