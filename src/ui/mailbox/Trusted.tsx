import { useRouter } from 'next/navigation';
import type { MailboxView } from '../../server/mailbox/view';
import { call, tell } from '../common/api';
import { formatDay } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Mailbox.module.css';

/** The certificates that the user trusts in this audit, although no known authority has signed them. */
export function Trusted({ auditId, trusted }: { auditId: string; trusted: MailboxView['trusted'] }) {
  const router = useRouter();
  if (trusted.length === 0) return null;
  const drop = (host: string, port: number) =>
    call(`/api/audits/${auditId}/trusted`, 'DELETE', { host, port })
      .then(() => router.refresh())
      .catch(tell);
  return (
    <section aria-label="Trusted certificates">
      <h2 className={classes.heading}>Certificates you trust in this audit</h2>
      <ul className={classes.trusted}>
        {trusted.map(({ host, port, fingerprint, createdAt }) => (
          <li key={`${host} ${port}`}>
            <div>
              {host}, port {port}, since {formatDay(createdAt)}{' '}
              <TextButton aria-label={`stop trusting ${host}, port ${port}`} onClick={() => void drop(host, port)}>
                stop trusting
              </TextButton>
            </div>
            <span className="mono">{fingerprint}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
