'use client';

import { Button, VisuallyHidden } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { GatherView, ScriptView, SourceView } from '../../server/views/gather';
import { DropAnywhere } from '../common/DropAnywhere';
import { formatBytes, formatNumber, messagesWord } from '../common/format';
import { sendFile, sendPath } from '../common/sendFile';
import { packed } from '../common/tar';
import { Concerns } from './Concerns';
import { FileReport } from './FileReport';
import { Folders } from './Folders';
import classes from './Gather.module.css';
import { OwnAddresses } from './OwnAddresses';
import { PathField } from './PathField';

/** What has been brought in, what was not understood, own addresses and folders. */
export function Gather({ auditId, view }: { auditId: string; view: GatherView }) {
  const { bring, bringPath, sending, statements } = useBringing(auditId);
  const openPicker = useRef<() => void>(null);
  const empty = view.scripts.length === 0 && view.sources.length === 0;
  return (
    <div className={classes.page}>
      <VisuallyHidden component="h1">What has been brought in</VisuallyHidden>
      <DropAnywhere openRef={openPicker} onDrop={bring} words="Drop it here to bring it in" />
      <div className={classes.drop}>
        <div className={classes.dropWords}>
          <strong>{empty ? 'Drop your rules and your mail here.' : 'Drop more files here.'}</strong>
          <span>
            Rules come as Sieve scripts, as Sieve in XML, as a sheet (CSV) or as JSON, and run in the order you bring
            them in; mail comes as mbox files, as single messages (.eml), as folders of these or Maildir folders, or as
            zip and tar archives of them.
          </span>
        </div>
        <div className={classes.dropWays}>
          <Button variant={empty ? 'filled' : 'default'} onClick={() => openPicker.current?.()}>
            Choose files
          </Button>
          <PathField onSend={bringPath} />
          <Link href={`/audits/${auditId}/server`}>or fetch scripts from a server</Link>
          <Link href={`/audits/${auditId}/sheet`}>or type the rules in</Link>
        </div>
      </div>
      {(sending || statements.length > 0) && (
        <ul className={classes.statements} aria-live="polite">
          {sending && <li>Sending “{sending}” …</li>}
          {statements.map(({ key, text, failed }) => (
            <li key={key} className={failed ? classes.refused : undefined}>
              {text}
            </li>
          ))}
        </ul>
      )}
      <div className={classes.columns}>
        <section>
          <h2>Rules</h2>
          {view.scripts.length === 0 && <p className={classes.soft}>No script has been brought in yet.</p>}
          {view.scripts.map((script) => (
            <Script key={script.id} script={script} />
          ))}
          <Concerns auditId={auditId} view={view} />
          {view.rules > 0 && (
            <p>
              <Link href={`/audits/${auditId}/chain`}>See the chain of {formatNumber(view.rules)} rules</Link>
            </p>
          )}
          <KeptWords view={view} />
          <OwnAddresses
            key={view.ownAddresses.join(' ')}
            auditId={auditId}
            addresses={view.ownAddresses}
            confirmed={view.addressesConfirmed}
          />
          {view.total > 0 && (
            <p>
              <Link href={`/audits/${auditId}/people`}>See your correspondents</Link>
            </p>
          )}
        </section>
        <section>
          <h2>Mail</h2>
          {view.sources.length === 0 && <p className={classes.soft}>No mail has been brought in yet.</p>}
          {view.sources.map((source) => (
            <Source key={source.id} auditId={auditId} source={source} />
          ))}
        </section>
        <section>
          <h2>Folders</h2>
          {view.folders.length === 0 && <p className={classes.soft}>Folders are known once mail is there.</p>}
          {view.folders.length > 0 && <Folders auditId={auditId} folders={view.folders} />}
        </section>
      </div>
    </div>
  );
}

function Script({ script }: { script: ScriptView }) {
  return (
    <article className={classes.item}>
      <div className={classes.itemHead}>
        <strong>{script.fileName}</strong>
        <span>
          {formatNumber(script.rules)} rules
          {script.blocks > 0 && `, ${formatNumber(script.blocks)} kept word for word`}
        </span>
      </div>
      {script.faults.length > 0 && (
        <ol className={classes.faults}>
          {script.faults.map((fault) => (
            <li key={fault} className="mono">
              {fault}
            </li>
          ))}
        </ol>
      )}
    </article>
  );
}

function KeptWords({ view }: { view: GatherView }) {
  if (view.keptWords.length === 0) return null;
  return (
    <>
      <h2>Kept word for word</h2>
      {view.keptWords.map(({ id, name, reason, text, works }) => (
        <article key={id} className={classes.item}>
          <div className={classes.itemHead}>
            <strong>{name}</strong>
            <span>{works ? 'is run as it stands' : 'is not run'}</span>
          </div>
          <p className={classes.soft}>Not a rule, since {reason}.</p>
          <pre className={classes.words}>{text}</pre>
        </article>
      ))}
    </>
  );
}

const STATE_WORDS: Readonly<Record<SourceView['state'], string>> = {
  importing: 'is being read',
  ready: '',
  refused: 'was refused',
  cancelled: 'was cancelled',
  interrupted: 'was interrupted',
};

function Source({ auditId, source }: { auditId: string; source: SourceView }) {
  const state = STATE_WORDS[source.state];
  return (
    <article className={classes.item}>
      <div className={classes.itemHead}>
        <strong>{source.fileName}</strong>
        {state ? (
          <span className={classes.refused}>{state}</span>
        ) : (
          <Link href={`/audits/${auditId}/mail?source=${source.id}`}>{messagesWord(source.messages)}</Link>
        )}
      </div>
      <p className={classes.soft}>
        {formatBytes(source.bytes)},{' '}
        {source.files > 0 ? 'folders by the places of its files' : `folder ${source.folder}`}
      </p>
      {source.statement && (
        <p>
          {source.statement}
          {source.state === 'ready' && (
            <>
              {' '}
              <Link href={`/audits/${auditId}/mail?source=${source.id}&oddities=1`}>See the odd ones</Link>
            </>
          )}
        </p>
      )}
      {source.files > 0 && <FileReport auditId={auditId} source={source} />}
    </article>
  );
}

interface Statement {
  readonly key: number;
  readonly text: string;
  readonly failed: boolean;
}

/** Sends files one after the other; each answer is told in plain words. */
function useBringing(auditId: string) {
  const router = useRouter();
  const [sending, setSending] = useState<string | null>(null);
  const [statements, setStatements] = useState<readonly Statement[]>([]);
  const bring = async (files: readonly File[]) => {
    for (const file of packed(files)) {
      setSending(file.name);
      say(await sendFile(auditId, file));
    }
    setSending(null);
    router.refresh();
  };
  const say = (said: Omit<Statement, 'key'>) =>
    setStatements((before) => [{ key: Date.now() + Math.random(), ...said }, ...before].slice(0, 12));
  const bringPath = async (path: string) => {
    say(await sendPath(auditId, path));
    router.refresh();
  };
  return { bring, bringPath, sending, statements };
}
