'use client';

import Link from 'next/link';
import { useSearchParams } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { Destination } from '../../server/chain/destinations';
import type { Offers } from '../../server/mail/filters-view';
import { formatNumber, formatPart } from '../common/format';
import { Onward } from '../common/Head';
import { NoMail } from '../common/Notice';
import { ofManyRules } from '../common/ofManyRules';
import { TextButton } from '../common/TextButton';
import { EvidenceTable } from './EvidenceTable';
import { Choice, type Filters, Removable, Toggle, Words } from './filters';
import classes from './Mail.module.css';
import { RuleOfThis } from './RuleOfThis';
import { useMessages } from './useMessages';

interface Props {
  readonly auditId: string;
  readonly simulated: boolean;
  readonly total: number;
  readonly rules: readonly { readonly id: string; readonly name: string }[];
  readonly destinations: readonly Destination[];
  readonly offers: Offers;
  /** The words for unsubscribing in the languages of the stored mail. */
  readonly unsubscribing: readonly string[];
}

/** All stored messages as a table of evidence, with what the chain does to each. */
function Mail({ auditId, simulated, total, rules, destinations, offers, unsubscribing }: Props) {
  const [query, setQuery] = useQuery();
  const messages = useMessages(auditId, query.toString(), destinations);
  const [selected, setMarked] = useState<ReadonlySet<number>>(new Set());
  if (total === 0) {
    return (
      <NoMail auditId={auditId}>
        Here each stored message stands with its destination, and with the rules that act on it.
      </NoMail>
    );
  }
  const filters: Filters = { query, setQuery, simulated, rules, destinations, offers };
  return (
    <div className={classes.page}>
      <div className={classes.filters}>
        <Words name="search" words="words anywhere in the message" {...filters} wide />
        {offers.lists.length > 0 && (
          <Choice
            name="list"
            words="mailing list"
            data={offers.lists.map(({ id, count }) => ({ value: id, label: `${id} (${formatNumber(count)})` }))}
            {...filters}
          />
        )}
        {offers.accounts.length > 1 && (
          <Choice
            name="account"
            words="delivered to"
            data={offers.accounts.map((address) => ({ value: address, label: address }))}
            {...filters}
          />
        )}
        <Toggle name="unseen" words="unseen" {...filters} />
        <Toggle name="sent" words="sent by you" {...filters} />
        <Toggle name="attached" words="with attachments" {...filters} />
        <Choice
          name="unsubscribe"
          words="unsubscribing"
          data={[
            { value: 'offered', label: 'offers a way to unsubscribe' },
            { value: 'none', label: 'offers no way to unsubscribe' },
          ]}
          {...filters}
        />
        <Toggle name="changed" words="changed by the draft" {...filters} />
        <Toggle name="oddities" words="irregular" {...filters} />
        {REMOVABLE.map(
          ([name, words]) => query.has(name) && <Removable key={name} name={name} words={words} {...filters} />,
        )}
      </div>
      <div className={classes.count}>
        <h1>{messages.failure ?? (messages.found === null ? '…' : `${formatPart(messages.found, total)} messages`)}</h1>
        {query.size > 0 && <TextButton onClick={() => setQuery(cleared(query))}>clear filters</TextButton>}
        {query.size > 0 && <RuleOfThis auditId={auditId} query={query} unsubscribing={unsubscribing} />}
        {selected.size > 0 && (
          <span className={classes.selected}>
            <strong>{formatNumber(selected.size)} selected</strong>
            <Link href={`/audits/${auditId}/examples?messages=${[...selected].join()}`}>use as examples</Link>
            <Link href={`/audits/${auditId}/lists?messages=${[...selected].join()}`}>add their senders to a list</Link>
            <TextButton onClick={() => setMarked(new Set())}>clear selection</TextButton>
          </span>
        )}
        <span className={selected.size > 0 ? undefined : classes.ways}>
          {messages.found !== null && messages.found > 0 && (
            <>
              download <a href={`/api/audits/${auditId}/mbox?${query}`}>as one mbox</a> or{' '}
              <a href={`/api/audits/${auditId}/eml?${query}`}>as .eml files</a> ·{' '}
            </>
          )}
          <Link href={`/audits/${auditId}/examples`}>suggestions from your filing</Link> ·{' '}
          <Link href={`/audits/${auditId}/probes`}>try a message</Link>
        </span>
        {query.size === 0 && selected.size === 0 && (
          <Onward href={`/audits/${auditId}/refile`}>Apply the chain to stored mail</Onward>
        )}
      </div>
      <EvidenceTable
        auditId={auditId}
        messages={messages}
        destinations={destinations}
        filters={filters}
        selected={selected}
        onMark={(number) => setMarked((before) => toggled(before, number))}
      />
    </div>
  );
}

export const MailFromText = ofManyRules(Mail);

/** Nobody selects more by hand. */
const MOST_MARKED = 200;

function toggled(selected: ReadonlySet<number>, number: number): ReadonlySet<number> {
  const next = new Set(selected);
  if (next.delete(number) || next.size >= MOST_MARKED) return next;
  return next.add(number);
}

/** Filters that only links can set. */
const REMOVABLE = [
  ['head', 'with words in sender, recipients or subject'],
  ['finding', 'of one finding'],
  ['conversation', 'of one conversation'],
  ['refiled', 'of the plan for stored mail'],
  ['person', 'of one correspondent'],
  ['source', 'imported together'],
  ['file', 'of one file'],
  ['change', 'affected by one change'],
  ['mover', 'moved by one rule'],
  ['was', 'with one pair of destinations'],
  ['between', 'treated differently'],
  ['tests', 'matching the tests'],
  ['passing', 'on one path'],
  ['costs', 'that the script treats differently'],
  ['trying', 'of the preview'],
  ['breaks', 'not meeting an expectation'],
  ['about', 'of an expectation'],
  ['step', 'that speak for or against a step of the plan'],
] as const;

const cleared = (query: URLSearchParams): Record<string, null> =>
  Object.fromEntries([...query.keys()].map((name) => [name, null]));

/** Filters are in the address. */
function useQuery(): [URLSearchParams, (change: Record<string, string | null>) => void] {
  const fromAddress = useSearchParams();
  const [query, set] = useState(() => new URLSearchParams(fromAddress.toString()));
  const address = fromAddress.toString();
  // A link to another query of this page, as the search has them. What is typed is in the address before it comes back here.
  useEffect(() => {
    if (new URLSearchParams(window.location.search).toString() !== address) return;
    set((before) => (before.toString() === address ? before : new URLSearchParams(address)));
  }, [address]);
  const [change] = useState(() => (parts: Record<string, string | null>) => {
    set((before) => {
      const next = new URLSearchParams(before);
      for (const [name, value] of Object.entries(parts)) {
        if (value === null) next.delete(name);
        else next.set(name, value);
      }
      if (next.toString() === before.toString()) return before;
      window.history.replaceState(null, '', next.size > 0 ? `?${next}` : window.location.pathname);
      return next;
    });
  });
  return [query, change];
}
