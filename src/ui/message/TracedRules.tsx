'use client';

import { Switch } from '@mantine/core';
import Link from 'next/link';
import { useState } from 'react';
import type { TracedRule, TracedView } from '../../server/mail/message-view';
import { formatPart } from '../common/format';
import { RuleWords } from '../common/RuleWords';
import classes from './Message.module.css';

const OUTCOME_WORDS: Readonly<Record<TracedRule['outcome'], string>> = {
  fired: 'acts',
  'did not hold': 'does not match',
  'not reached': 'is not reached',
  'passed over': 'is skipped, since a linked rule before it acted',
};

/** The rules tried on a message, in order, with what made their tests match. */
export function TracedRules({ auditId, view }: { auditId: string; view: Pick<TracedView, 'entries'> }) {
  const [all, setAll] = useState(false);
  const fired = view.entries.filter(({ outcome }) => outcome === 'fired');
  const tried = view.entries.filter(({ outcome }) => outcome === 'fired' || outcome === 'did not hold');
  const near = view.entries.filter(
    ({ outcome, tests }) => outcome === 'fired' || tests.some((test) => test.evidence.length > 0),
  );
  const shown = all ? view.entries : near;
  const end = view.entries.find(({ stopped }) => stopped);
  return (
    <aside className={classes.rules} aria-label="Rules tried">
      <p className={classes.summary}>
        {formatPart(fired.length, tried.length)} rules that were tried act.
        {end ? ` The chain stops at ${end.number} ${end.name}.` : ' No rule stops this message.'}
      </p>
      <Switch
        size="xs"
        label="show every rule"
        checked={all}
        onChange={(event) => setAll(event.currentTarget.checked)}
      />
      {shown.length === 0 && <p>No rule matches. The implicit keep leaves this message in the inbox.</p>}
      <ol className={classes.traced}>
        {shown.map((rule) => (
          <li key={rule.id} data-outcome={rule.outcome}>
            <div className={classes.ruleHead}>
              <span className={classes.ruleNumber}>{rule.number}</span>
              <Link href={`/audits/${auditId}/chain#${rule.id}`}>{rule.name}</Link>
              <span className={classes.outcome}>
                {OUTCOME_WORDS[rule.outcome]}
                {rule.stopped && ', then stop'}
              </span>
            </div>
            <RuleWords className={classes.ruleSentence} rule={rule} />
            <ul className={classes.tests}>
              {rule.tests
                .filter((test) => all || test.holds)
                .map((test, index) => (
                  <li key={String(index)}>
                    <span className={classes.outcome}>{test.holds ? 'matches' : 'does not match'}:</span>{' '}
                    {test.words ?? <code>{test.text.length > 160 ? `${test.text.slice(0, 160)}…` : test.text}</code>}
                    {test.evidence.slice(0, 3).map((words) => (
                      <span key={words} className={classes.evidence}>
                        {words}
                      </span>
                    ))}
                  </li>
                ))}
            </ul>
          </li>
        ))}
      </ol>
    </aside>
  );
}
