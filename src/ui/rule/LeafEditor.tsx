import { NumberInput, TextInput } from '@mantine/core';
import { useState } from 'react';
import { dateTest, type FormId, formOf, maybeDate, TEST_FORMS } from '../../core/repair/test-forms';
import { readWrittenTest } from '../../core/rules/as-written';
import { bodyTest, maybeBodyMatch } from '../../core/rules/body';
import type { LeafTest, TestTree, TextMatch } from '../../core/rules/rule';
import type { RuleOffers } from '../../server/chain/rule-view';
import { formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import { AsWritten, Choice, FLAGS, Names } from './fields';
import { Keys } from './Keys';
import classes from './RuleDesk.module.css';

interface Props {
  readonly test: LeafTest;
  readonly offers: RuleOffers;
  readonly onChange: (tree: TestTree) => void;
}

/** One test in the words of the trade: what is looked at, how, and what for. */
export function LeafEditor({ test, offers, onChange }: Props) {
  const form = formOf(test);
  const put = (made: LeafTest) => onChange({ kind: 'leaf', test: made });
  const choices = TEST_FORMS.map(({ id, title }) => ({ value: id, label: title }));
  const known = choices.some(({ value }) => value === form);
  return (
    <div className={classes.leaf}>
      <Choice
        label="What is looked at"
        wide
        value={form}
        choices={known ? choices : [...choices, { value: form, label: OTHERS[form] ?? form }]}
        onChange={(value) => value !== form && put(begun(value, test, offers))}
      />
      <Details test={test} form={form} offers={offers} put={put} onChange={onChange} />
    </div>
  );
}

/** Forms that are not begun with, but come from scripts. */
const OTHERS: Partial<Record<FormId, string>> = { addresses: 'addresses in', envelope: 'the envelope' };

/** A test of another form that looks for the same, where it looks for words at all. */
function begun(id: FormId, before: LeafTest, offers: RuleOffers): LeafTest {
  const made = TEST_FORMS.find((form) => form.id === id)?.begin(offers);
  if (!made) return before;
  const sought = matchOf(before);
  if (!sought || sought.keys.length === 0) return made;
  if (id === 'body') return bodyTest(sought);
  return 'keys' in made && made.keys.length === 0 ? { ...made, match: sought.match, keys: sought.keys } : made;
}

function matchOf(test: LeafTest): TextMatch | null {
  if ('keys' in test) return test;
  return test.test === 'sieve' ? maybeBodyMatch(test.text) : null;
}

type DetailProps = Props & { readonly form: FormId; readonly put: (test: LeafTest) => void };

function Details({ test, form, offers, put, onChange }: DetailProps) {
  switch (test.test) {
    case 'address':
    case 'envelope':
      return (
        <>
          {form === 'addresses' && test.test === 'address' && (
            <Headers headers={test.headers} onChange={(headers) => put({ ...test, headers })} />
          )}
          <Choice
            label="Part of the address"
            value={test.part}
            choices={PARTS}
            onChange={(value) => put({ ...test, part: value })}
          />
          <Match match={test} onChange={(match) => put({ ...test, ...match })} />
          <KeysOrList
            label="addresses"
            test={test}
            offers={form === 'sender' ? offers.senders : offers.own}
            named={offers.named}
            put={put}
          />
        </>
      );
    case 'header':
      return (
        <>
          {(form === 'header' || form === 'importance') && (
            <Headers headers={test.headers} onChange={(headers) => put({ ...test, headers })} />
          )}
          <Match match={test} onChange={(match) => put({ ...test, ...match })} />
          <KeysOrList
            label="words"
            test={test}
            offers={form === 'list' ? offers.lists : []}
            named={offers.named}
            put={put}
          />
        </>
      );
    case 'hasflag':
      return (
        <>
          <Match match={test} onChange={(match) => put({ ...test, ...match })} />
          <Keys label="flags" keys={test.keys} offers={FLAGS} onChange={(keys) => put({ ...test, keys })} />
        </>
      );
    case 'exists':
      return <Headers headers={test.headers} onChange={(headers) => put({ ...test, headers })} />;
    case 'size':
      return <Size test={test} put={put} />;
    case 'sieve':
      return <Written test={test} form={form} offers={offers} put={put} onChange={onChange} />;
    default:
      test satisfies never;
      return null;
  }
}

interface KeysOrListProps {
  readonly label: string;
  readonly test: Extract<LeafTest, { test: 'address' | 'envelope' | 'header' }>;
  readonly offers: readonly string[];
  readonly named: RuleOffers['named'];
  readonly put: (test: LeafTest) => void;
}

/** Keys of its own, or those of a named list, which change with it. */
function KeysOrList({ label, test, offers, named, put }: KeysOrListProps) {
  const { list, ...own } = test;
  const used = named.find(({ id }) => id === list);
  const fits = named.filter(({ keys }) => keys.length > 0);
  if (used) {
    return (
      <span className={classes.fixed}>
        anyone in the list “{used.name}” ({formatNumber(used.keys.length)}){' '}
        <TextButton onClick={() => put({ ...own, keys: [...used.keys] })}>write them here instead</TextButton>
      </span>
    );
  }
  return (
    <>
      <Keys label={label} keys={test.keys} offers={offers} onChange={(keys) => put({ ...own, keys })} />
      {fits.length > 0 && test.keys.length === 0 && (
        <Choice
          label="Or a list"
          value=""
          choices={[{ value: '', label: 'or a list' }, ...fits.map(({ id, name }) => ({ value: id, label: name }))]}
          onChange={(id) => {
            const chosen = fits.find((one) => one.id === id);
            if (chosen) put({ ...own, keys: chosen.keys, list: chosen.id });
          }}
        />
      )}
    </>
  );
}

const PARTS = [
  { value: 'all', label: 'whole address' },
  { value: 'localpart', label: 'before the @' },
  { value: 'domain', label: 'domain' },
] as const;
const MATCHES = [
  { value: 'is', label: 'is' },
  { value: 'contains', label: 'contains' },
  { value: 'matches', label: 'has the form' },
] as const;

type Comparison = Pick<TextMatch, 'match' | 'comparator'>;

function Match({ match, onChange }: { match: Comparison; onChange: (match: Comparison) => void }) {
  const exact = match.comparator === 'i;octet';
  const known = exact || match.comparator === 'i;ascii-casemap';
  return (
    <>
      <Choice
        label="How it is compared"
        value={match.match}
        choices={MATCHES}
        onChange={(value) => onChange({ ...match, match: value })}
      />
      <Choice
        label="Capital and small letters"
        value={match.comparator}
        choices={[
          { value: 'i;ascii-casemap', label: 'any case' },
          { value: 'i;octet', label: 'to the letter' },
          ...(known ? [] : [{ value: match.comparator, label: match.comparator }]),
        ]}
        onChange={(value) => onChange({ ...match, comparator: value })}
      />
    </>
  );
}

const HEADERS = [
  'Subject',
  'List-Id',
  'Sender',
  'Reply-To',
  'Return-Path',
  'X-Spam-Flag',
  'Auto-Submitted',
  'Precedence',
];

function Headers({ headers, onChange }: { headers: readonly string[]; onChange: (headers: string[]) => void }) {
  return (
    <Names
      label="Names of headers"
      placeholder="name of the header"
      names={headers}
      offers={HEADERS}
      onChange={onChange}
    />
  );
}

const UNITS = [
  { value: '1', label: 'bytes' },
  { value: '1024', label: 'KB' },
  { value: String(1024 ** 2), label: 'MB' },
  { value: String(1024 ** 3), label: 'GB' },
];

type SizeTest = Extract<LeafTest, { test: 'size' }>;

function Size({ test, put }: { test: SizeTest; put: (test: LeafTest) => void }) {
  const largest = UNITS.findLast(({ value }) => test.octets % Number(value) === 0 && test.octets >= Number(value));
  const [unit, setUnit] = useState(largest?.value ?? '1');
  const octets = (amount: number | string, of: string) => Math.max(0, Math.round(Number(amount) * Number(of)) || 0);
  return (
    <>
      <Choice
        label="Larger or smaller"
        value={test.relation}
        choices={[
          { value: 'over', label: 'is over' },
          { value: 'under', label: 'is under' },
        ]}
        onChange={(value) => put({ ...test, relation: value })}
      />
      <NumberInput
        size="xs"
        aria-label="How much"
        className={classes.short}
        min={0}
        decimalScale={3}
        value={test.octets / Number(unit)}
        onChange={(value) => put({ ...test, octets: octets(value, unit) })}
      />
      <Choice
        label="Unit"
        value={unit}
        choices={UNITS}
        onChange={(value) => {
          put({ ...test, octets: octets(test.octets / Number(unit), value) });
          setUnit(value);
        }}
      />
    </>
  );
}

type WrittenProps = Omit<DetailProps, 'test'> & { readonly test: Extract<LeafTest, { test: 'sieve' }> };

/** A test that rules keep as Sieve: some have fields of their own, the others are edited as they are written. */
function Written({ test, form, put, onChange }: WrittenProps) {
  const body = form === 'body' ? maybeBodyMatch(test.text) : null;
  const date = form === 'date' ? maybeDate(test.text) : null;
  if (body) {
    return (
      <>
        <Choice
          label="How it is compared"
          value={body.match}
          choices={MATCHES}
          onChange={(value) => put(bodyTest({ ...body, match: value }))}
        />
        <Keys label="words" keys={body.keys} onChange={(keys) => put(bodyTest({ ...body, keys }))} />
      </>
    );
  }
  if (date) {
    return (
      <>
        <Choice
          label="Before or from"
          value={date.relation}
          choices={[
            { value: 'lt', label: 'is before' },
            { value: 'ge', label: 'is from' },
          ]}
          onChange={(value) => put(dateTest({ ...date, relation: value }))}
        />
        <TextInput
          size="xs"
          type="date"
          aria-label="Day"
          value={date.day}
          onChange={(event) => event.currentTarget.value && put(dateTest({ ...date, day: event.currentTarget.value }))}
        />
      </>
    );
  }
  if (form === 'attachment') return <span className={classes.fixed}>is there</span>;
  if (form === 'spam') return <span className={classes.fixed}>is 5 of 10 or more</span>;
  return (
    <AsWritten key={test.text} label="The test as Sieve" text={test.text} read={readWrittenTest} onRead={onChange} />
  );
}
