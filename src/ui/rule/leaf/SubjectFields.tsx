import { Checkbox, NumberInput } from '@mantine/core';
import type { ReactNode } from 'react';
import type { Occurrence, Subject, SubjectKind, Zone } from '../../../core/rules/comparison';
import { keysOf } from '../../../core/text/lookup';
import { Choice } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';
import { FURTHER_PARTS, Headers, Words } from './Fields';

type Of<Kind extends SubjectKind> = Extract<Subject, { of: Kind }>;

interface Row<Kind extends SubjectKind> {
  readonly title: string;
  readonly begin: Of<Kind>;
  readonly fields: (subject: Of<Kind>, put: (subject: Of<Kind>) => void) => ReactNode;
}

const NOTHING = () => null;

/** For each kind of what is looked at, its title and its fields. */
const SUBJECTS: { readonly [Kind in SubjectKind]: Row<Kind> } = {
  header: {
    title: 'header fields',
    begin: { of: 'header', headers: ['Subject'] },
    fields: (subject, put) => (
      <>
        <Headers headers={subject.headers} onChange={(headers) => put({ ...subject, headers })} />
        <WhichOne occurrence={subject.occurrence} put={(one) => put(withOccurrence(subject, one))} />
      </>
    ),
  },
  address: {
    title: 'addresses in headers',
    begin: { of: 'address', headers: ['To'], part: 'all' },
    fields: (subject, put) => (
      <>
        <Headers headers={subject.headers} onChange={(headers) => put({ ...subject, headers })} />
        <Choice
          label="Part of the address"
          value={subject.part}
          choices={FURTHER_PARTS}
          onChange={(part) => put({ ...subject, part })}
        />
        <WhichOne occurrence={subject.occurrence} put={(one) => put(withOccurrence(subject, one))} />
      </>
    ),
  },
  envelope: {
    title: 'the envelope',
    begin: { of: 'envelope', parts: ['to'], part: 'detail' },
    fields: (subject, put) => (
      <>
        <Keys label="parts of the envelope" keys={subject.parts} onChange={(parts) => put({ ...subject, parts })} />
        <Choice
          label="Part of the address"
          value={subject.part}
          choices={FURTHER_PARTS}
          onChange={(part) => put({ ...subject, part })}
        />
      </>
    ),
  },
  body: {
    title: 'the text',
    begin: { of: 'body', transform: 'text' },
    fields: (subject, put) => (
      <Choice
        label="Which text"
        value={subject.transform}
        choices={[
          { value: 'text', label: 'as it is read' },
          { value: 'raw', label: 'as it was sent' },
        ]}
        onChange={(transform) => put({ ...subject, transform })}
      />
    ),
  },
  'body parts': {
    title: 'parts of a media type',
    begin: { of: 'body parts', types: ['text/plain'] },
    fields: (subject, put) => (
      <Keys label="media types" keys={subject.types} onChange={(types) => put({ ...subject, types })} />
    ),
  },
  date: {
    title: 'a date in a header',
    begin: { of: 'date', header: 'date', part: 'weekday', zone: 'original' },
    fields: (subject, put) => (
      <>
        <Words label="Header" value={subject.header} onChange={(header) => put({ ...subject, header })} />
        <DatePart part={subject.part} put={(part) => put({ ...subject, part })} />
        <InZone zone={subject.zone} original put={(zone) => put({ ...subject, zone })} />
      </>
    ),
  },
  currentdate: {
    title: 'the date of arrival',
    begin: { of: 'currentdate', part: 'weekday', zone: null },
    fields: (subject, put) => (
      <>
        <DatePart part={subject.part} put={(part) => put({ ...subject, part })} />
        <InZone zone={subject.zone} original={false} put={(zone) => put({ ...subject, zone })} />
      </>
    ),
  },
  environment: {
    title: 'a fact of the server',
    begin: { of: 'environment', name: 'domain' },
    fields: (subject, put) => (
      <Words label="Name of the fact" value={subject.name} onChange={(name) => put({ ...subject, name })} />
    ),
  },
  string: {
    title: 'a fixed text',
    begin: { of: 'string', texts: ['text'] },
    fields: (subject, put) => (
      <Keys label="texts" keys={subject.texts} onChange={(texts) => put({ ...subject, texts })} />
    ),
  },
  metadata: {
    title: 'a folder’s annotation',
    begin: { of: 'metadata', folder: 'INBOX', annotation: '/private/comment' },
    fields: (subject, put) => (
      <>
        <Words label="Folder" value={subject.folder} onChange={(folder) => put({ ...subject, folder })} />
        <Words
          label="Annotation"
          value={subject.annotation}
          onChange={(annotation) => put({ ...subject, annotation })}
        />
      </>
    ),
  },
  servermetadata: {
    title: 'a server’s annotation',
    begin: { of: 'servermetadata', annotation: '/shared/comment' },
    fields: (subject, put) => (
      <Words label="Annotation" value={subject.annotation} onChange={(annotation) => put({ ...subject, annotation })} />
    ),
  },
  spamtest: {
    title: 'the spam score',
    begin: { of: 'spamtest', percent: false },
    fields: (subject, put) => (
      <Checkbox
        size="xs"
        label="in percent"
        checked={subject.percent}
        onChange={(event) => put({ ...subject, percent: event.currentTarget.checked })}
      />
    ),
  },
  virustest: { title: 'the virus score', begin: { of: 'virustest' }, fields: NOTHING },
  notify_method_capability: {
    title: 'who can be notified',
    begin: { of: 'notify_method_capability', uri: 'mailto:', capability: 'online' },
    fields: (subject, put) => (
      <Words label="Whom to notify" value={subject.uri} onChange={(uri) => put({ ...subject, uri })} />
    ),
  },
};

/** The same by any kind; each row is given only subjects of its own. */
const ROWS = SUBJECTS as { readonly [Kind in SubjectKind]: Row<SubjectKind> };

/** What is looked at, and where. */
export function SubjectFields({ subject, put }: { subject: Subject; put: (subject: Subject) => void }) {
  const row = ROWS[subject.of];
  return (
    <>
      <Choice
        label="Which question"
        wide
        value={subject.of}
        choices={keysOf(ROWS).map((value) => ({ value, label: ROWS[value].title }))}
        onChange={(kind) => kind !== subject.of && put(SUBJECTS[kind].begin)}
      />
      {row.fields(subject, put)}
    </>
  );
}

/** The same without an occurrence, or with one; it is of the same kind, which a rest does not say. */
function withOccurrence<T extends { occurrence?: Occurrence }>(subject: T, occurrence: Occurrence | null): T {
  const { occurrence: _, ...rest } = subject;
  return (occurrence ? { ...rest, occurrence } : rest) as T;
}

interface WhichOneProps {
  readonly occurrence: Occurrence | undefined;
  readonly put: (occurrence: Occurrence | null) => void;
}

function WhichOne({ occurrence, put }: WhichOneProps) {
  const side = occurrence ? (occurrence.fromEnd ? 'last' : 'first') : 'all';
  return (
    <>
      <Choice
        label="Which of several"
        value={side}
        choices={[
          { value: 'all', label: 'all of them' },
          { value: 'first', label: 'from the first' },
          { value: 'last', label: 'from the last' },
        ]}
        onChange={(value) =>
          put(value === 'all' ? null : { number: occurrence?.number ?? 1, fromEnd: value === 'last' })
        }
      />
      {occurrence && (
        <NumberInput
          size="xs"
          aria-label="Number among several"
          className={classes.short}
          min={1}
          value={occurrence.number}
          onChange={(number) => put({ ...occurrence, number: Math.max(1, Number(number) || 1) })}
        />
      )}
    </>
  );
}

const DATE_PARTS = [
  { value: 'date', label: 'day' },
  { value: 'weekday', label: 'weekday' },
  { value: 'day', label: 'day of month' },
  { value: 'month', label: 'month' },
  { value: 'year', label: 'year' },
  { value: 'hour', label: 'hour' },
  { value: 'minute', label: 'minute' },
  { value: 'second', label: 'second' },
  { value: 'time', label: 'time of day' },
  { value: 'iso8601', label: 'time' },
  { value: 'std11', label: 'as it is written' },
  { value: 'julian', label: 'day number' },
  { value: 'zone', label: 'time zone' },
] as const;

function DatePart({ part, put }: { part: string; put: (part: string) => void }) {
  return <Choice<string> label="Part of the date" wide value={part} choices={DATE_PARTS} onChange={put} />;
}

interface InZoneProps {
  readonly zone: Zone;
  readonly original: boolean;
  readonly put: (zone: Zone) => void;
}

function InZone({ zone, original, put }: InZoneProps) {
  const fixed = zone !== null && zone !== 'original';
  return (
    <>
      <Choice
        label="Time zone"
        value={fixed ? 'fixed' : (zone ?? 'server')}
        choices={[
          { value: 'server', label: 'of the server' },
          ...(original ? [{ value: 'original', label: 'of the sender' } as const] : []),
          { value: 'fixed', label: 'at' },
        ]}
        onChange={(value) => put(value === 'server' ? null : value === 'fixed' ? '+0000' : 'original')}
      />
      {fixed && <Words label="Offset" value={zone} onChange={put} />}
    </>
  );
}
