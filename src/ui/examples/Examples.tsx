'use client';

import { Button, SegmentedControl } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Weighed } from '../../core/repair/from-examples';
import type { ExamplesView, ExemptingWay, Widening } from '../../server/changes/examples-view';
import { wideningAnswer } from '../../server/http/answers';
import { call, tell } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatDay, formatNumber, formatPart } from '../common/format';
import { heldPath } from '../common/mailPaths';
import { Notice } from '../common/Notice';
import classes from './Examples.module.css';
import { newRulePath } from './newRulePath';

const AIMS = [
  { value: 'catch', label: 'a rule should match mail like this' },
  { value: 'spare', label: 'no rule should have acted on these' },
];

/** From messages to a rule that matches mail like them, or to one that exempts it. */
export function Examples({ auditId, view }: { auditId: string; view: ExamplesView | null }) {
  const [aim, setAim] = useState('catch');
  if (!view) {
    return (
      <Notice title="The chain is being simulated">
        <p>What these messages have in common appears once the simulation ends.</p>
      </Notice>
    );
  }
  return (
    <div className={classes.page}>
      <section className={classes.side} aria-label="The messages">
        <h1 className={classes.title}>
          {view.chosen.length === 1 ? 'One message' : `${formatNumber(view.chosen.length)} messages`} as examples
        </h1>
        <table className={classes.messages}>
          <tbody>
            {view.chosen.map((row) => (
              <tr key={row.number}>
                <td>{formatDay(row.date)}</td>
                <td>{row.from || row.fromAddress}</td>
                <td>
                  <Link href={`/audits/${auditId}/mail/${row.number}`} dir="auto">
                    {row.subject || '(no subject)'}
                  </Link>
                </td>
                <td className={classes.soft}>{row.fired.length === 0 ? 'no rule acts' : row.fired.join(', ')}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </section>
      <section className={classes.side} aria-label="What to do with these messages">
        <SegmentedControl
          size="xs"
          aria-label="These messages are examples of"
          value={aim}
          data={AIMS}
          onChange={setAim}
        />
        {aim === 'catch' ? <Catching auditId={auditId} view={view} /> : <Sparing auditId={auditId} view={view} />}
      </section>
    </div>
  );
}

/** Tests that match the messages, and the new or existing rules that could use them. */
function Catching({ auditId, view }: { auditId: string; view: ExamplesView }) {
  const { chosen, proposals, total, folder, widenable } = view;
  const [at, choose] = useState(0);
  const [widening, setWidening] = useState<(Widening & { readonly name: string }) | null>(null);
  const router = useRouter();
  const proposal = proposals[at];
  if (!proposal)
    return <p>These messages have nothing in common that a rule could test. You can still write a rule by hand.</p>;
  const pick = (index: number) => {
    choose(index);
    setWidening(null);
  };
  const widen = async (id: string, name: string) => {
    try {
      const answer = await call(`/api/audits/${auditId}/widening`, 'POST', { rule: id, tests: proposal.tests });
      setWidening({ ...wideningAnswer.parse(answer), name });
    } catch (error) {
      tell(error);
    }
  };
  return (
    <>
      <h2 className={classes.heading}>Which mail do you mean?</h2>
      <ul className={classes.proposals}>
        {proposals.map((one, index) => (
          <li key={one.words}>
            <label>
              <input type="radio" name="proposal" checked={index === at} onChange={() => pick(index)} />
              <span>
                mail {one.words}
                <span className={classes.soft}>{caughtWords(one, chosen.length, total)}</span>
              </span>
            </label>
            <SeeThem path={heldPath(auditId, one.tests)} />
          </li>
        ))}
      </ul>
      <h2 className={classes.heading}>Which rule should match it?</h2>
      <ul className={classes.rules}>
        {widenable.map(({ id, name, why, ends }) => (
          <li key={id}>
            <Button size="compact-sm" variant="default" onClick={() => widen(id, name)}>
              Extend “{name}”{ends !== null && `, which ${ends} its mail`}
            </Button>
            <span className={classes.soft}>
              {ends === 'discards' && 'These messages would be discarded, with no copy left. '}
              {ends === 'rejects' && 'These messages would be rejected: their senders get them back. '}
              {why}
            </span>
          </li>
        ))}
        <li>
          <Button
            size="compact-sm"
            variant="default"
            onClick={() => router.push(newRulePath(auditId, { tests: proposal.tests, folder, name: nameOf(proposal) }))}
          >
            Add a new rule
          </Button>
          <span className={classes.soft}>
            {folder === null ? 'with this test' : `with this test, filing into “${folder}”, where these messages are`}
          </span>
        </li>
      </ul>
      {widening && (
        <>
          {widening.dropped.length > 0 && <p>Proved superfluous, and removed: {widening.dropped.join(', ')}.</p>}
          <ChangePreview
            auditId={auditId}
            edits={widening.edits}
            words={`Extend “${widening.name}” to mail ${proposal.words}`}
            why={`${chosen.length === 1 ? 'A message' : `${chosen.length} messages`} like “${chosen[0]?.subject ?? ''}” should match a rule.`}
            onDone={() => setWidening(null)}
            onMade={() => router.push(`/audits/${auditId}/changes`)}
          />
        </>
      )}
    </>
  );
}

/** Opens in another tab, so that this page stays as it is. */
function SeeThem({ path }: { path: string | null }) {
  if (path === null) return null;
  return (
    <Link href={path} target="_blank">
      see these messages
    </Link>
  );
}

function caughtWords({ ofChosen, others }: Weighed, chosen: number, total: number): string {
  return ` matches ${formatPart(ofChosen, chosen)} selected, and ${formatPart(others, total)} others`;
}

const nameOf = ({ words }: Weighed): string => `Mail ${words}`.slice(0, 80);

/** For each rule that acts on the messages, ways to exempt them. */
function Sparing({ auditId, view }: { auditId: string; view: ExamplesView }) {
  const { acting, chosen } = view;
  const [chosenWay, choose] = useState<{ readonly way: ExemptingWay; readonly name: string } | null>(null);
  const router = useRouter();
  if (acting.length === 0) return <p>No rule acts on these messages.</p>;
  return acting.map(({ id, name, acts, ways }) => (
    <section key={id} aria-label={name}>
      <h2 className={classes.heading}>
        “{name}” acts on {formatPart(acts, chosen.length)}
      </h2>
      {ways.length === 0 && <p className={classes.soft}>No single exception or test would exempt these messages.</p>}
      <ul className={classes.rules}>
        {ways.map((way) => (
          <li key={way.words}>
            <Button
              size="compact-sm"
              variant={chosenWay?.way === way ? 'filled' : 'default'}
              onClick={() => choose({ way, name })}
            >
              Preview
            </Button>
            <span>
              {way.words}
              <span className={classes.soft}>
                {' '}
                exempts {formatPart(way.ofChosen, acts)} selected, and {formatPart(way.others, way.othersOf)} others
                that it acts on
              </span>
            </span>
          </li>
        ))}
      </ul>
      {chosenWay?.name === name && (
        <ChangePreview
          auditId={auditId}
          edits={chosenWay.way.edits}
          words={`In “${name}”: ${chosenWay.way.words}`}
          why={`No rule should have acted on messages like “${chosen[0]?.subject ?? ''}”.`}
          onDone={() => choose(null)}
          onMade={() => router.push(`/audits/${auditId}/changes`)}
        />
      )}
    </section>
  ));
}
