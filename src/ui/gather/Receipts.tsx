import Link from 'next/link';
import { useRouter } from 'next/navigation';
import type { ReceiptView } from '../../server/gather/view';
import { call, tell } from '../common/api';
import { TextButton } from '../common/TextButton';
import classes from './Gather.module.css';

interface Props {
  readonly auditId: string;
  readonly receipts: readonly ReceiptView[];
  /** The upload in progress, with the closing quotation mark; null if there is none. */
  readonly sending: string | null;
}

const OUTCOMES: Readonly<Record<ReceiptView['outcome'], string>> = {
  taken: 'imported',
  importing: 'importing',
  refused: 'refused',
  there: 'already imported',
};

/** The receipt of each file, until it is dismissed. */
export function Receipts({ auditId, receipts, sending }: Props) {
  const router = useRouter();
  if (receipts.length === 0 && sending === null) return null;
  const dismiss = async (path: string) => {
    try {
      await call(`/api/audits/${auditId}/receipts${path}`, 'DELETE');
      router.refresh();
    } catch (error) {
      tell(error);
    }
  };
  return (
    <section className={classes.receipts} aria-label="Receipts" aria-live="polite">
      <h2>
        Receipts
        {receipts.length > 1 && <TextButton onClick={() => dismiss('')}>dismiss all</TextButton>}
      </h2>
      <ul>
        {sending !== null && <li className={classes.sending}>Sending “{sending}</li>}
        {receipts.map((receipt) => (
          <li key={receipt.id}>
            <span className={receipt.outcome === 'refused' ? classes.refused : classes.outcome}>
              {OUTCOMES[receipt.outcome]}
            </span>
            <span className={classes.receiptName} dir="auto" title={receipt.fileName}>
              {receipt.fileName}
            </span>
            <span>
              {wordsOf(receipt)} <Target auditId={auditId} receipt={receipt} />
            </span>
            <TextButton
              aria-label={`dismiss the receipt of ${receipt.fileName}`}
              onClick={() => dismiss(`/${receipt.id}`)}
            >
              dismiss
            </TextButton>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The message already contains the name. */
const wordsOf = ({ fileName, words }: ReceiptView): string =>
  words.startsWith(`“${fileName}”: `) ? words.slice(fileName.length + 4) : words;

/** The address of what was made from a file, or was already imported. */
function Target({ auditId, receipt: { kind, target, outcome, files } }: { auditId: string; receipt: ReceiptView }) {
  if (target === null || outcome === 'importing') return null;
  if (kind === 'script') return <a href={`#script-${target}`}>its rules</a>;
  if (outcome === 'refused') return <a href={`#source-${target}`}>details</a>;
  return (
    <>
      <Link href={`/audits/${auditId}/mail?source=${target}`}>its messages</Link>
      {files > 0 && (
        <>
          , <a href={`#source-${target}`}>each file</a>
        </>
      )}
    </>
  );
}
