import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { type ReactNode, useState } from 'react';
import type { SourceView } from '../../server/gather/view';
import { call, sendTo, tell } from '../common/api';
import { formatBytes, formatMoment, formatNumber, messagesWord } from '../common/format';
import { TextButton } from '../common/TextButton';
import { FileButton } from './Fields';
import { FileReport } from './FileReport';
import classes from './Gather.module.css';
import { Removal } from './Removal';

const STATE_WORDS: Readonly<Record<SourceView['state'], string>> = {
  importing: 'importing',
  ready: '',
  removed: 'removed',
  refused: 'was rejected',
  cancelled: 'was cancelled',
  interrupted: 'was interrupted',
};

/** The imported files of mail, with removing (previewed), restoring and reading again. */
export function Sources({ auditId, sources }: { auditId: string; sources: readonly SourceView[] }) {
  const router = useRouter();
  const [removing, setRemoving] = useState<string | null>(null);
  const act = async (work: Promise<unknown>) => {
    try {
      await work;
    } catch (error) {
      tell(error);
    }
    setRemoving(null);
    router.refresh();
  };
  const [isWhole, setWhole] = useState(false);
  if (sources.length === 0) return <p className={classes.soft}>No mail has been imported yet.</p>;
  const earlier = sources.filter(({ mailbox, state }) => mailbox !== null && state === 'ready').slice(SHOWN_FETCHES);
  const shown = isWhole ? sources : sources.filter((source) => !earlier.includes(source));
  const lines = shown.map((source) => {
    const path = `/api/audits/${auditId}/sources/${source.id}`;
    const remove = () => act(call(path, 'DELETE'));
    return (
      <article key={source.id} id={`source-${source.id}`} className={classes.item}>
        <Head auditId={auditId} source={source}>
          <Steps
            source={source}
            onRemove={() => (source.state === 'ready' ? setRemoving(source.id) : remove())}
            onRestore={() => act(call(path, 'PUT'))}
            onRead={(file) => act(file ? sendTo(`${path}/reading`, file) : call(`${path}/reading`, 'POST'))}
          />
        </Head>
        {removing === source.id && source.state === 'ready' && (
          <Removal auditId={auditId} source={source} onRemove={remove} onCancel={() => setRemoving(null)} />
        )}
        {source.files > 0 && source.state !== 'removed' && <FileReport auditId={auditId} source={source} />}
      </article>
    );
  });
  return (
    <>
      {lines}
      {earlier.length > 0 && (
        <TextButton aria-expanded={isWhole} onClick={() => setWhole(!isWhole)}>
          {isWhole ? 'hide' : 'show'} {formatNumber(earlier.length)} earlier{' '}
          {earlier.length === 1 ? 'fetch' : 'fetches'}
        </TextButton>
      )}
    </>
  );
}

/** Whoever looks again every day fetches often. */
const SHOWN_FETCHES = 3;

function whereWords({ mailbox, isScattered, createdAt, bytes, files, folder }: SourceView): string {
  if (isScattered) return 'deleted or moved there since they were fetched';
  const size = formatBytes(bytes);
  if (mailbox !== null) return `${size}, fetched ${formatMoment(createdAt)}`;
  return `${size}, ${files > 0 ? 'folders named after the folders of its files' : `folder ${folder}`}`;
}

interface HeadProps {
  readonly auditId: string;
  readonly source: SourceView;
  /** The actions of a file. */
  readonly children: ReactNode;
}

function Head({ auditId, source, children }: HeadProps) {
  const state = STATE_WORDS[source.state];
  return (
    <>
      <div className={classes.itemHead}>
        <strong dir="auto">{source.fileName}</strong>
        {state ? (
          <span className={source.state === 'removed' ? classes.outcome : classes.refused}>{state}</span>
        ) : (
          <Link href={`/audits/${auditId}/mail?source=${source.id}`}>{messagesWord(source.messages)}</Link>
        )}
      </div>
      <p className={classes.steps}>
        <span className={classes.outcome}>{whereWords(source)}</span>
        {children}
      </p>
      {source.statement && source.state !== 'removed' && (
        <p>
          {source.statement}
          {source.state === 'ready' && (
            <>
              {' '}
              <Link href={`/audits/${auditId}/mail?source=${source.id}&oddities=1`}>See the irregular ones</Link>
            </>
          )}
        </p>
      )}
    </>
  );
}

interface StepsProps {
  readonly source: SourceView;
  readonly onRemove: () => void;
  readonly onRestore: () => void;
  /** Null to read the original path again. */
  readonly onRead: (file: File | null) => void;
}

function Steps({ source, onRemove, onRestore, onRead }: StepsProps) {
  const { fileName, state, hasPath, mailbox, isScattered } = source;
  if (state === 'importing') return null;
  if (state === 'removed') {
    return (
      <TextButton aria-label={`restore: ${fileName}`} onClick={onRestore}>
        restore
      </TextButton>
    );
  }
  return (
    <>
      <TextButton aria-label={`remove: ${fileName}`} onClick={onRemove}>
        remove
      </TextButton>
      {state === 'ready' && hasPath && (
        <TextButton aria-label={`read again: ${fileName}`} onClick={() => onRead(null)}>
          read again
        </TextButton>
      )}
      {state === 'ready' && mailbox === null && !isScattered && (
        <FileButton words="replace" label={`replace: ${fileName}`} onFile={onRead} />
      )}
    </>
  );
}
