'use client';

import { useDebouncedValue } from '@mantine/hooks';
import { createSpotlight, Spotlight } from '@mantine/spotlight';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { containing } from '../../core/text/words';
import { foundAnswer } from '../../server/http/answers';
import type { FoundView } from '../../server/mail/found-view';
import { PLACES, VIEWS, type View } from '../../views';
import { useAsked } from '../common/answers';
import { call, tell } from '../common/api';
import { formatDay, formatNumber, messagesWord } from '../common/format';
import classes from './Everywhere.module.css';

const [palette, actions] = createSpotlight();

export const openSearch = () => actions.open();

const WITH_PLACES_FIRST: readonly View[] = [...new Set<View>([...PLACES, ...VIEWS])];

/** What is scrolled must be reached by keyboard; the list passes this on to its scroll area. */
const SCROLLED = { viewportProps: { tabIndex: 0, role: 'group', 'aria-label': 'What is found' } };

/** Milliseconds without a letter before the server is asked. */
const REST = 120;

/** One field that finds everything of an audit: rules, folders, messages, findings, pages and actions (Ctrl or Cmd + K). */
export function Everywhere({ auditId }: { auditId: string }) {
  const [words, setWords] = useState('');
  const [rested] = useDebouncedValue(words.trim(), REST);
  const { answer, failure, isCurrent } = useAsked(
    rested === '' ? null : ['found', auditId, rested],
    async (signal) =>
      foundAnswer.parse(
        await call(`/api/audits/${auditId}/found?${new URLSearchParams({ words: rested })}`, 'GET', undefined, signal),
      ),
    { keeps: true },
  );
  const commands = useCommands(auditId);
  const has = containing(words);
  // Pages and actions come first, since they are there at once: what arrives later moves nothing under the hand.
  const items = [
    ...commands.filter(({ label, about = '' }) => words.trim() === '' || has(label, about)),
    ...(answer ? itemsOf(answer, rested) : []),
  ];
  const router = useRouter();
  const groups = [...new Set(items.map(({ group }) => group))];
  const isWaiting = rested !== words.trim() || (rested !== '' && !isCurrent);
  return (
    <Spotlight.Root
      store={palette}
      shortcut={['mod + K']}
      // From a field too: also from its own, while it is closing.
      tagsToIgnore={[]}
      query={words}
      onQueryChange={setWords}
      // Emptied when it opens: what is typed while it is still closing would be lost otherwise.
      clearQueryOnClose={false}
      onSpotlightOpen={() => setWords('')}
      scrollable
      maxHeight="min(32rem, 70vh)"
      attributes={{ content: { 'aria-label': 'Find everywhere' } }}
    >
      <Spotlight.Search
        placeholder="Find rules, folders, messages, findings, pages, actions"
        aria-label="Find everywhere"
      />
      <Spotlight.ActionsList {...SCROLLED}>
        {groups.map((group) => (
          <Spotlight.ActionsGroup key={group} label={group}>
            {items
              .filter((item) => item.group === group)
              .map(({ key, label, about, path, act }) => (
                <Spotlight.Action
                  key={key}
                  label={label}
                  {...(about === undefined ? {} : { description: about })}
                  highlightQuery
                  highlightColor="var(--evidence)"
                  classNames={{ actionBody: classes.body, actionDescription: classes.about }}
                  onClick={() => (path === undefined ? act?.() : router.push(`/audits/${auditId}/${path}`))}
                />
              ))}
          </Spotlight.ActionsGroup>
        ))}
        {items.length === 0 && (
          <Spotlight.Empty>
            {failure ?? (isWaiting ? 'Looking …' : `Nothing contains “${words.trim()}”.`)}
          </Spotlight.Empty>
        )}
      </Spotlight.ActionsList>
    </Spotlight.Root>
  );
}

/** One line of the list. */
interface Item {
  readonly group: string;
  readonly key: string;
  readonly label: string;
  readonly about?: string;
  /** Where it leads, below the address of the audit. */
  readonly path?: string;
  readonly act?: () => void;
}

function itemsOf({ rules, folders, findings, messages, all }: FoundView, words: string): Item[] {
  const more = (group: string, key: keyof FoundView['all'], shown: readonly unknown[], path: string): Item[] =>
    all[key] > shown.length
      ? [{ group, key: `all ${key}`, label: `All ${formatNumber(all[key])} ${key} with “${words}”`, path }]
      : [];
  // Their pages have no such list, so another word leads to the rest.
  const rest = (group: string, key: 'folders' | 'findings', shown: readonly unknown[], path: string): Item[] =>
    all[key] > shown.length
      ? [{ group, key: `rest ${key}`, label: `${formatNumber(all[key] - shown.length)} more ${key}: add a word`, path }]
      : [];
  return [
    ...rules.map(({ id, place, name, sentence }) => {
      return {
        group: 'Rules',
        key: `rule ${id}`,
        label: `${place + 1} ${name}`,
        about: sentence,
        path: `chain#${encodeURIComponent(id)}`,
      };
    }),
    ...more('Rules', 'rules', rules, `chain?${new URLSearchParams({ find: words })}`),
    ...folders.map(({ name, messages: held }) => {
      return {
        group: 'Folders',
        key: `folder ${name}`,
        label: name,
        about: messagesWord(held),
        path: `mail?${new URLSearchParams({ folder: name })}`,
      };
    }),
    ...rest('Folders', 'folders', folders, 'gather'),
    ...findings.map(({ key, claim }) => {
      return {
        group: 'Findings',
        key: `finding ${key}`,
        label: claim,
        path: `findings?finding=${encodeURIComponent(key)}`,
      };
    }),
    ...rest('Findings', 'findings', findings, 'findings'),
    ...messages.map(({ number, subject, from, date }) => {
      const day = date === null ? '' : `, ${formatDay(date)}`;
      return {
        group: 'Messages',
        key: `message ${number}`,
        label: subject || 'no subject',
        about: `${from}${day}`,
        path: `mail/${number}`,
      };
    }),
    ...more('Messages', 'messages', messages, `mail?${new URLSearchParams({ head: words })}`),
  ];
}

function useCommands(auditId: string): Item[] {
  const router = useRouter();
  const post = (path: string, body?: unknown) => () =>
    void call(`/api/audits/${auditId}/${path}`, 'POST', body)
      .then(() => router.refresh())
      .catch(tell);
  const go = (path: string) => () => router.push(path);
  return [
    ...WITH_PLACES_FIRST.map(({ path, command, about }) => ({
      group: 'Pages',
      key: path,
      label: command,
      ...(about === undefined ? {} : { about }),
      path,
    })),
    { group: 'Pages', key: 'help', label: 'Findings, certainty and keyboard shortcuts', act: go('/help') },
    { group: 'Pages', key: 'language', label: 'Sieve language reference', act: go('/language') },
    { group: 'Pages', key: 'audits', label: 'All audits', act: go('/') },
    { group: 'Actions', key: 'undo', label: 'Undo the last change', act: post('undo') },
    { group: 'Actions', key: 'redo', label: 'Redo the last undone change', act: post('redo') },
    { group: 'Actions', key: 'simulate', label: 'Simulate and audit again', act: post('jobs', { kind: 'simulate' }) },
    { group: 'Actions', key: 'verify', label: 'Verify the script', act: post('jobs', { kind: 'verify' }) },
  ];
}
