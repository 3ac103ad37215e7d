import { Button, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import type { ServerRequest, ServerView } from '../../server/handover/mail-server';
import { formatDay } from '../common/format';
import { WhyButton } from '../common/WhyButton';
import classes from './MailServer.module.css';
import type { Connection } from './useServer';

interface Props {
  readonly auditId: string;
  readonly view: ServerView;
  readonly busy: Connection['busy'];
  readonly onAsk: (request: ServerRequest) => Promise<void>;
}

/** The server's answer to the script, and the steps to make it the one that runs. */
export function Upload({ auditId, view, busy, onAsk }: Props) {
  const { scripts, done, before, uploaded, script } = view;
  const isAsking = busy === 'asking';
  const [name, setName] = useState<string | null>(null);
  const given = name ?? freeName(`audited ${formatDay(Date.now())}`, scripts);
  const active = scripts.find((one) => one.active)?.name ?? null;
  const isToActivate = uploaded !== null && uploaded !== active;
  return (
    <section aria-label="Upload the script">
      {done && <p className={classes.done}>{done}</p>}
      {isToActivate && (
        <div className={classes.buttons}>
          <Button size="sm" loading={isAsking} onClick={() => onAsk({ ask: 'activate', name: uploaded })}>
            Activate “{uploaded}”
          </Button>
          <span>From then on, it sorts the mail on this server{active !== null && `, instead of “${active}”`}.</span>
        </div>
      )}
      {before !== null && (
        <div className={classes.buttons}>
          <Button
            size="compact-sm"
            variant="default"
            loading={isAsking}
            onClick={() => onAsk({ ask: 'activate', name: before })}
          >
            Activate “{before}” again
          </Button>
          <span>It was active before.</span>
        </div>
      )}
      {!isToActivate && before === null && (
        <>
          <Answer auditId={auditId} view={view} busy={busy} onAsk={onAsk} />
          <form
            className={classes.buttons}
            onSubmit={(event) => {
              event.preventDefault();
              void onAsk({ ask: 'put', name: given.trim() }).then(() => setName(null));
            }}
          >
            <TextInput
              size="sm"
              aria-label="Name of the script on the server"
              maxLength={200}
              value={given}
              onChange={(event) => setName(event.currentTarget.value)}
            />
            <WhyButton size="sm" type="submit" loading={isAsking} why={whyNot(script, given, busy)}>
              Upload
            </WhyButton>
          </form>
          <p className={classes.soft}>
            The script is read back from the server for comparison, and stays inactive until you activate it.
          </p>
        </>
      )}
    </section>
  );
}

function whyNot(script: ServerView['script'], name: string, busy: Connection['busy']): string | null {
  if (busy === 'verifying') return 'The script is being verified.';
  if (script.is === 'not verified' || script.is === 'held back') return script.why;
  if (script.is === 'rejected') return 'The server rejects the script: its answer is shown above.';
  return name.trim() === '' ? 'Enter a name for the script.' : null;
}

/** What came of the dry run. */
function Answer({ auditId, view, busy, onAsk }: Props) {
  const { script, isTarget } = view;
  const toExport = <Link href={`/audits/${auditId}/export`}>See the script on the export page</Link>;
  const retarget = !isTarget && (
    <div className={classes.buttons}>
      <Button size="compact-sm" variant="default" loading={busy === 'asking'} onClick={() => onAsk({ ask: 'target' })}>
        Use this server as the target
      </Button>
      <span className={classes.soft}>Then the script is written with what this server supports.</span>
    </div>
  );
  if (busy === 'verifying') return <p className={classes.done}>The script for this server is being verified.</p>;
  switch (script.is) {
    case 'accepted':
      return (
        <>
          <p className={classes.done}>Dry run: the server accepts the script.</p>
          {script.answer !== '' && <p className={classes.failure}>Warning from the server: {script.answer}</p>}
          <p className={classes.soft}>Nothing was stored on the server. {toExport}.</p>
          {retarget}
        </>
      );
    case 'rejected':
      return (
        <>
          <p className={classes.done}>Dry run: the server rejects the script.</p>
          <p className={classes.failure}>{script.answer}</p>
          {script.lacks.length > 0 && <p>The server does not announce {script.lacks.join(', ')}.</p>}
          {retarget}
        </>
      );
    case 'not checkable':
      return (
        <>
          <p className={classes.done}>This server cannot check a script without storing it.</p>
          <p className={classes.soft}>It checks the script when it is uploaded. {toExport}.</p>
          {retarget}
        </>
      );
    case 'not verified':
    case 'held back':
      return (
        <>
          <p className={classes.done}>{script.why}</p>
          <p>{toExport}.</p>
          {retarget}
        </>
      );
    default:
      return script satisfies never;
  }
}

/** The name, with a number behind it if the server has a script of that name. */
function freeName(name: string, scripts: ServerView['scripts']): string {
  const taken = new Set(scripts.map((one) => one.name));
  for (let at = 2, free = name; ; at++) {
    if (!taken.has(free)) return free;
    free = `${name} (${at})`;
  }
}
