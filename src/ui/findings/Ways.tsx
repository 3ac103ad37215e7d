import Link from 'next/link';
import type { FindingView } from '../../server/findings/finding-view';
import { Fate } from '../common/Fate';
import classes from './Findings.module.css';

/** The way of one message through the chain as it is and after the first repair, side by side. */
export function Ways({ auditId, finding }: { auditId: string; finding: FindingView }) {
  const { ways, witness, destinations, sample } = finding;
  if (ways.length === 0) return null;
  const [newest] = sample;
  return (
    <section aria-label="One message on its way">
      <h2 className={classes.heading}>
        {witness ? 'A made-up message' : 'The newest of them'} on its way
        {!witness && newest && (
          <>
            {': '}
            <Link href={`/audits/${auditId}/mail/${newest.number}`} dir="auto">
              {newest.subject || '(no subject)'}
            </Link>
          </>
        )}
      </h2>
      {witness && (
        <pre className={classes.witness} dir="auto">
          {witness.text}
        </pre>
      )}
      <div className={classes.ways}>
        {ways.map(({ title, fate, steps }) => (
          <div key={title}>
            <h3 className={classes.wayTitle}>{title}</h3>
            <ol className={classes.steps}>
              {steps.map(({ id, name, stopped, here }) => (
                <li key={id} data-here={here}>
                  <Link href={`/audits/${auditId}/chain#${id}`}>{name}</Link>
                  {stopped && ' and ends here'}
                </li>
              ))}
              {steps.length === 0 && <li>no rule acts on it</li>}
            </ol>
            <p className={classes.wayFate}>
              <Fate fate={fate} destinations={destinations} />
            </p>
          </div>
        ))}
      </div>
    </section>
  );
}
