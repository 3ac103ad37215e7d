import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { call, tell } from '../common/api';
import { formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Chain.module.css';

interface Props {
  readonly auditId: string;
  /** Messages that the user sent. */
  readonly sent: number;
  readonly included: boolean;
}

/** How many messages the user sent, and whether they run through the rules; nothing where there are none. */
export function SentControl({ auditId, sent, included }: Props) {
  const router = useRouter();
  if (sent === 0) return null;
  const include = (next: boolean) => {
    call(`/api/audits/${auditId}/sent`, 'PUT', { included: next })
      .then(() => router.refresh())
      .catch(tell);
  };
  return (
    <div className={classes.clock}>
      <span>
        <Link href={`/audits/${auditId}/mail?sent=1`}>
          {sent === 1 ? '1 message' : `${formatNumber(sent)} messages`} you sent
        </Link>{' '}
        {sent === 1 ? 'is' : 'are'} {included ? 'counted here' : 'not counted: rules only see mail that arrives'}.
      </span>
      <TextButton onClick={() => include(!included)}>{included ? 'Leave them out' : 'Count them too'}</TextButton>
    </div>
  );
}
