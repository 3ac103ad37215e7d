'use client';

import { Button } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useRef, useState } from 'react';
import type { GatherView } from '../../server/gather/view';
import { sendFile, sendPath, tell } from '../common/api';
import { DropAnywhere } from '../common/DropAnywhere';
import { formatNumber } from '../common/format';
import { Head, Onward } from '../common/Head';
import { OrderOfRules } from '../common/OrderOfRules';
import { useDrops } from '../common/useDrops';
import { BetterProgram } from './BetterProgram';
import { Concerns } from './Concerns';
import { OwnAddresses, PathField } from './Fields';
import { Folders } from './Folders';
import classes from './Gather.module.css';
import { PlaceFields } from './PlaceFields';
import { Receipts } from './Receipts';
import { Scripts } from './Scripts';
import { Sources } from './Sources';
import { Whence } from './Whence';

/** Imported files, what was not understood, own addresses and folders. */
export function Gather({ auditId, view }: { auditId: string; view: GatherView }) {
  const { drops, importPath, sending } = useBringing(auditId);
  const openPicker = useRef<() => void>(null);
  const empty = view.scripts.length === 0 && view.sources.length === 0;
  return (
    <div className={classes.page}>
      <Standing auditId={auditId} view={view} />
      <DropAnywhere openRef={openPicker} onDrop={drops.drop} words="Drop here to import" />
      <div className={classes.drop}>
        <div className={classes.dropWords}>
          <strong>{empty ? 'Drop your rules and your mail here.' : 'Drop more files here.'}</strong>
          <span>
            Rules: Sieve scripts, Sieve in XML, a sheet (CSV), sentences (.txt) or JSON; they run in the order you
            import them. Mail: mbox files, single messages (.eml), folders of these, Maildir folders, or zip and tar
            archives of them.
          </span>
        </div>
        <div className={classes.dropWays}>
          <Button variant={isReady(view) ? 'default' : 'filled'} onClick={() => openPicker.current?.()}>
            Choose files
          </Button>
          <Button variant="default" component={Link} href={`/audits/${auditId}/mailbox`}>
            Fetch from a mail server
          </Button>
          <PathField onSend={importPath} />
          <span>
            or type rules in <Link href={`/audits/${auditId}/sentences`}>as sentences</Link> or{' '}
            <Link href={`/audits/${auditId}/sheet`}>as a sheet</Link>
          </span>
        </div>
      </div>
      <Whence auditId={auditId} />
      <OrderOfRules drops={drops} />
      <Receipts auditId={auditId} receipts={view.receipts} sending={sending} />
      <div className={classes.columns}>
        <section>
          <h2>Rules</h2>
          <Scripts auditId={auditId} scripts={view.scripts} />
          <Concerns auditId={auditId} view={view} />
          {view.rules > 0 && (
            <p className={classes.soft}>
              They run: {view.runs}. <Link href={`/audits/${auditId}/program`}>How does your program run them?</Link>
            </p>
          )}
          {view.total > 0 && <PlaceFields auditId={auditId} of={view} />}
          {view.rules > 0 && view.total > 0 && <BetterProgram auditId={auditId} of={view} />}
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
          <Sources auditId={auditId} sources={view.sources} />
        </section>
        <section>
          <h2>Folders</h2>
          {view.folders.length === 0 && <p className={classes.soft}>Folders appear once mail is imported.</p>}
          {view.folders.length > 0 && <Folders auditId={auditId} folders={view.folders} />}
        </section>
      </div>
    </div>
  );
}

const isReady = ({ rules, total }: GatherView): boolean => rules > 0 && total > 0;

/** What is imported, and what is missing. */
function Standing({ auditId, view }: { auditId: string; view: GatherView }) {
  const { rules, total } = view;
  const ruleWords = `${formatNumber(rules)} ${rules === 1 ? 'rule' : 'rules'}`;
  const mailWords = `${formatNumber(total)} ${total === 1 ? 'message' : 'messages'}`;
  if (rules === 0 && total === 0) return <Head>Nothing imported yet: add your rules and your mail</Head>;
  const see = <Onward href={`/audits/${auditId}/chain`}>See the chain of {ruleWords}</Onward>;
  if (rules === 0) return <Head>{mailWords} imported, and no rules yet</Head>;
  if (total === 0) return <Head>{ruleWords} imported, and no mail yet</Head>;
  return (
    <Head action={see}>
      {ruleWords} and {mailWords} imported
    </Head>
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
            <span>{works ? 'is run as written' : 'is not run'}</span>
          </div>
          <p className={classes.soft}>Not a rule: {reason}.</p>
          <pre className={classes.words}>{text}</pre>
        </article>
      ))}
    </>
  );
}

/** Uploads files one after another. The server writes a receipt for each. */
function useBringing(auditId: string) {
  const router = useRouter();
  const [sending, setSending] = useState<string | null>(null);
  const drops = useDrops(async (files) => {
    for (const [at, file] of files.entries()) {
      setSending(files.length > 1 ? `${file.name}” (${at + 1} of ${files.length}) …` : `${file.name}” …`);
      const { text, failed } = await sendFile(auditId, file);
      // A refusal has its receipt; a failed upload has none.
      if (failed) tell(text);
      router.refresh();
    }
    setSending(null);
  });
  const importPath = async (path: string) => {
    const { text, failed } = await sendPath(auditId, path);
    if (failed) tell(text);
    router.refresh();
  };
  return { drops, importPath, sending };
}
