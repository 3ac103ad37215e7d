'use client';

import { Popover } from '@mantine/core';
import Link from 'next/link';
import { ruleOfSearch, type Search } from '../../core/rules/from-search';
import type { TestTree } from '../../core/rules/rule';
import { ownJson } from '../../core/text/lookup';
import { TextButton } from '../common/TextButton';
import classes from './Mail.module.css';

/** Filters that look at more than the message, by name. */
const OTHERS: Readonly<Record<string, string>> = {
  folder: 'the folder where a message is now',
  unseen: 'whether a message was seen',
  sent: 'that you sent it',
  changed: 'that the draft changes its destination',
  oddities: 'that it is irregular',
  rule: 'what a rule does with it',
  fate: 'its destination',
  untouched: 'that no rule acts on it',
  finding: 'its finding',
  conversation: 'its conversation',
  refiled: 'a number of the plan for stored mail',
  source: 'when it was imported',
  file: 'the file it came from',
  change: 'a change of the rules',
  mover: 'the rule that moves it',
  was: 'a pair of destinations',
  between: 'a comparison of chains',
  passing: 'its path through the chain',
  costs: 'a difference of the script',
  trying: 'a preview',
  breaks: 'an expectation',
  about: 'an expectation',
  step: 'a step of the plan',
};

interface Props {
  readonly auditId: string;
  readonly query: URLSearchParams;
  readonly unsubscribing: readonly string[];
}

/** Leads from a narrowing to a rule for the same messages, and says what no rule can say. */
export function RuleOfThis({ auditId, query, unsubscribing }: Props) {
  const { tests, name, inexact, unsaid } = ruleOfSearch(searchOf(query, unsubscribing));
  const path = tests && `/audits/${auditId}/rule?${new URLSearchParams({ tests: JSON.stringify(tests), name })}`;
  if (path && inexact.length + unsaid.length === 0) return <Link href={path}>Make a rule of this</Link>;
  return (
    <Popover position="bottom-start" width={380} withArrow>
      <Popover.Target>
        <TextButton>Make a rule of this</TextButton>
      </Popover.Target>
      <Popover.Dropdown>
        <div className={classes.ruleOf}>
          {unsaid.length > 0 && (
            <p>
              No rule can test {unsaid.join(', ')}:{' '}
              {path ? 'the rule leaves this out.' : 'there is nothing left to test.'}
            </p>
          )}
          {inexact.map((words) => (
            <p key={words}>{words}</p>
          ))}
          {path && <Link href={path}>Make the nearest rule</Link>}
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}

function searchOf(query: URLSearchParams, unsubscribing: readonly string[]): Search {
  const of = (name: string) => query.get(name) || undefined;
  const tests = of('tests');
  const way = of('unsubscribe');
  return {
    search: of('search'),
    from: of('from'),
    subject: of('subject'),
    person: of('person'),
    list: of('list'),
    account: of('account'),
    since: of('since'),
    until: of('until'),
    isAttached: query.has('attached'),
    unsubscribe: way === 'offered' || way === 'none' ? way : undefined,
    unsubscribing,
    tests: tests === undefined ? undefined : maybeTests(tests),
    others: [...new Set([...query.keys()].flatMap((name) => OTHERS[name] ?? []))],
  };
}

/** The server refuses what is not JSON, and says so. */
function maybeTests(text: string): TestTree | undefined {
  try {
    return ownJson<TestTree>(text);
  } catch {
    return undefined;
  }
}
