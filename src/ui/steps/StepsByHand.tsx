'use client';

import { Button, Checkbox } from '@mantine/core';
import Link from 'next/link';
import { useEffect, useState } from 'react';
import { joined, quoted } from '../../core/rules/words';
import { ownJson } from '../../core/text/lookup';
import type { StepsView } from '../../server/handover/steps-view';
import { formatNumber } from '../common/format';
import classes from './Steps.module.css';

/** The changes of the draft as a list to tick off, for a program that takes no script. */
export function StepsByHand({ auditId, view }: { auditId: string; view: StepsView }) {
  const { program, found, keys } = view;
  const [done, tick] = useTicks(auditId);
  if (!found)
    return <Empty auditId={auditId} words="The rules are being simulated. Open this page again in a moment." />;
  const { steps, isSafe } = found;
  if (steps.length === 0) {
    return (
      <Empty
        auditId={auditId}
        words="The draft is identical to the imported rules: there is nothing to do by hand. Once you have changed rules here, this page lists what to change in your own program, in a safe order."
      />
    );
  }
  const left = keys.filter((key) => !done.has(key)).length;
  return (
    <article className={classes.page}>
      <header className={classes.head}>
        <h1 className={classes.title}>Steps by hand</h1>
        <p className={classes.count} aria-live="polite">
          {left === 0 ? 'All steps are done.' : `${formatNumber(left)} of ${formatNumber(steps.length)} steps left`}
        </p>
        <Button size="compact-sm" variant="default" className={classes.screen} onClick={() => window.print()}>
          Print
        </Button>
        <Link className={classes.screen} href={`/audits/${auditId}/program`}>
          how the rules run
        </Link>
      </header>
      <p className={classes.soft}>
        {program ?? 'The rules run one after another, as on a mail server with Sieve.'} Do the steps in this order.{' '}
        {isSafe
          ? 'At no step is stored mail lost, redirected or hidden that is not so before or after; this was also proved for other mail.'
          : 'No order of these steps is safe by itself, so the rules concerned are switched off first: mail that arrives meanwhile stays in the inbox.'}
      </p>
      <ol className={classes.steps}>
        {steps.map(({ before, after, cannot, test }, at) => {
          const key = keys[at] ?? '';
          const isDone = done.has(key);
          return (
            <li key={key} data-done={isDone || undefined}>
              <Checkbox
                size="sm"
                checked={isDone}
                onChange={() => tick(key)}
                label={<span className={classes.what}>{`${at + 1}. ${view.titles[at] ?? ''}`}</span>}
              />
              <div className={classes.detail}>
                {before !== null && before !== after && (
                  <p className={classes.before}>
                    <span className={classes.word}>before</span> {before}
                  </p>
                )}
                {after !== null && (
                  <p>
                    <span className={classes.word}>{wordFor(before, after)}</span> {after}
                  </p>
                )}
                {cannot.map((words) => (
                  <p key={words} className={classes.warning}>
                    {words}
                  </p>
                ))}
                {test && <Test test={test} />}
              </div>
            </li>
          );
        })}
      </ol>
    </article>
  );
}

/** What the sentence of a rule after a step is: a new rule, the changed one, or the one that is only moved or switched. */
function wordFor(before: string | null, after: string): string {
  if (before === null) return 'new';
  return before === after ? 'rule' : 'then';
}

function Test({ test }: { test: { readonly message: string; readonly folders: readonly string[] } }) {
  const { message, folders } = test;
  const where = folders.length === 0 ? 'must be discarded' : `must arrive in ${joined(folders.map(quoted), 'and')}`;
  return (
    <details>
      <summary>A test message: once all steps are done, it {where}.</summary>
      <pre className={classes.message} tabIndex={0}>
        {message}
      </pre>
    </details>
  );
}

function Empty({ auditId, words }: { auditId: string; words: string }) {
  return (
    <article className={classes.page}>
      <h1 className={classes.title}>Steps by hand</h1>
      <p>{words}</p>
      <p>
        <Link href={`/audits/${auditId}/findings`}>Findings</Link> and the{' '}
        <Link href={`/audits/${auditId}/chain`}>Chain</Link> are where rules are changed.
      </p>
    </article>
  );
}

/** The steps that are done, kept by the browser. */
function useTicks(auditId: string): [ReadonlySet<string>, (key: string) => void] {
  const name = `steps ${auditId}`;
  const [done, setDone] = useState<ReadonlySet<string>>(new Set());
  useEffect(() => {
    const kept = localStorage.getItem(name);
    if (kept !== null) setDone(new Set(ownJson<string[]>(kept)));
  }, [name]);
  const tick = (key: string) => {
    const next = new Set(done);
    if (!next.delete(key)) next.add(key);
    setDone(next);
    localStorage.setItem(name, JSON.stringify([...next]));
  };
  return [done, tick];
}
