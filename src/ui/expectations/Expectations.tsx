'use client';

import Link from 'next/link';
import { useRouter } from 'next/navigation';
import type { Expectation } from '../../core/repair/expectations';
import type { ExpectationLine, ExpectationsView, OfferedLine } from '../../server/changes/expectations-view';
import { call, tell } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { heldPath } from '../common/mailPaths';
import { Quoted } from '../common/Quoted';
import { TextButton } from '../common/TextButton';
import { VerdictWords } from '../common/VerdictWords';
import classes from './Expectations.module.css';
import { NewExpectation } from './NewExpectation';

/** Expectations: their state, suggestions from stored mail, and a form for new ones. */
export function Expectations({ auditId, view }: { auditId: string; view: ExpectationsView }) {
  const router = useRouter();
  const path = `/api/audits/${auditId}/expectations`;
  const keep = async (expectation: Expectation): Promise<boolean> => {
    try {
      await call(path, 'POST', expectation);
      router.refresh();
      return true;
    } catch (error) {
      tell(error);
      return false;
    }
  };
  const drop = (id: number) =>
    call(`${path}/${id}`, 'DELETE')
      .then(() => router.refresh())
      .catch(tell);
  const standing = view.kept.filter((line) => stands(line)).length;
  return (
    <div className={classes.page}>
      <section className={classes.side} aria-label="Expectations">
        <h1 className={classes.title}>
          {view.kept.length === 0
            ? 'No expectations yet'
            : `${formatPart(standing, view.kept.length)} expectations are met`}
        </h1>
        {view.kept.length === 0 && (
          <p>
            An expectation states the destination that some mail must have. A change that breaks an expectation is
            blocked. Suggestions are on the right.
          </p>
        )}
        <ul className={classes.lines}>
          {view.kept.map((line) => (
            <Kept key={line.id} auditId={auditId} line={line} total={view.total} onDrop={() => drop(line.id)} />
          ))}
        </ul>
      </section>
      <section className={classes.side} aria-label="Suggestions">
        <NewExpectation auditId={auditId} offers={view.offers} onKeep={keep} />
        {view.offered.length > 0 && <h2 className={classes.heading}>Suggestions from stored mail</h2>}
        <ul className={classes.lines}>
          {view.offered.map((line) => (
            <Offered
              key={line.words}
              auditId={auditId}
              line={line}
              total={view.total}
              onKeep={() => keep(line.expectation)}
            />
          ))}
        </ul>
      </section>
    </div>
  );
}

/** Whether no known message violates it. */
const stands = ({ stored, probes, reasoned }: ExpectationLine): boolean =>
  !stored?.broken && probes.length === 0 && !(reasoned && 'witness' in reasoned);

interface KeptProps {
  readonly auditId: string;
  readonly line: ExpectationLine;
  readonly total: number;
  readonly onDrop: () => void;
}

function Kept({ auditId, line, total, onDrop }: KeptProps) {
  const { id, name, words, stored, probes, reasoned } = line;
  const mail = (part: 'about' | 'breaks') => `/audits/${auditId}/mail?${part}=${id}`;
  return (
    <li data-broken={!stands(line) || undefined}>
      <div className={classes.head}>
        <strong>
          <bdi>{name}</bdi>
        </strong>
        <TextButton aria-label={`delete: ${name}`} onClick={onDrop}>
          delete
        </TextButton>
      </div>
      <p>
        <Quoted>{words}</Quoted>.
      </p>
      <p className={classes.soft}>
        {stored === null ? (
          'Checking stored mail.'
        ) : (
          <>
            Stored mail: applies to <Link href={mail('about')}>{formatPart(stored.about, total)}</Link>
            {stored.broken === 0 ? ', all as expected.' : ', of which '}
            {stored.broken > 0 && (
              <>
                <Link href={mail('breaks')}>{formatNumber(stored.broken)}</Link> do not meet it.
              </>
            )}
          </>
        )}
        {probes.length > 0 && ` Probes that do not meet it: ${probes.map((probe) => `“${probe}”`).join(', ')}.`}
      </p>
      {reasoned ? (
        <VerdictWords
          verdict={reasoned}
          yes="Proved for all possible messages"
          no="A message can break this expectation"
        />
      ) : (
        <p className={classes.soft}>Checking all possible messages.</p>
      )}
    </li>
  );
}

interface OfferedProps {
  readonly auditId: string;
  readonly line: OfferedLine;
  readonly total: number;
  readonly onKeep: () => void;
}

function Offered({ auditId, line, total, onKeep }: OfferedProps) {
  const { expectation, words, because, about, broken } = line;
  return (
    <li>
      <div className={classes.head}>
        <strong>
          <bdi>{expectation.name}</bdi>
        </strong>
        <TextButton aria-label={`add: ${expectation.name}`} onClick={onKeep}>
          add
        </TextButton>
      </div>
      <p>
        {words}
        {because !== null && `, since ${because}`}.
      </p>
      <p className={classes.soft}>
        About <MaybeLink path={heldPath(auditId, expectation.tests)}>{formatPart(about, total)}</MaybeLink> messages,{' '}
        {broken === 0 ? 'all as expected now' : `${formatNumber(broken)} of them not as expected now`}.
      </p>
    </li>
  );
}
