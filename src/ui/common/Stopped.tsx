import Link from 'next/link';
import type { Broken } from '../../server/changes/expectations';
import { formatNumber } from './format';
import classes from './Stopped.module.css';

const SHOWN = 3;

/** Why a change is blocked: the expectations it would break, with evidence. */
export function Stopped({ auditId, broken }: { auditId: string; broken: readonly Broken[] }) {
  return (
    <section className={classes.stopped} aria-label="Expectations this change would break">
      <p>
        <strong>This change is blocked</strong>: it breaks what you{' '}
        <Link href={`/audits/${auditId}/expectations`}>expect</Link>.
      </p>
      <ul>
        {broken.map(({ id, name, messages, probes, witness }) => (
          <li key={id}>
            “{name}”
            {messages.length > 0 && (
              <>
                , for {formatNumber(messages.length)} stored {messages.length === 1 ? 'message' : 'messages'}:{' '}
                {messages.slice(0, SHOWN).map((number, at) => (
                  <span key={number}>
                    {at > 0 && ', '}
                    <Link href={`/audits/${auditId}/mail/${number}`}>no. {formatNumber(number + 1)}</Link>
                  </span>
                ))}
                {messages.length > SHOWN && ' and others'}
              </>
            )}
            {probes.length > 0 && <>, for the probe {probes.map((probe) => `“${probe}”`).join(', ')}</>}
            {messages.length + probes.length === 0 && witness && (
              <details>
                <summary>no stored message shows it, but an example message does</summary>
                <pre dir="auto">{witness.open.slice(0, 4000).trimEnd()}</pre>
              </details>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
