import { NumberInput } from '@mantine/core';
import type { ReactNode } from 'react';
import { withPart } from '../../../core/repair/action-forms';
import type { MimeOption, Occurrence, PartFields, Subject, SubjectKind, Zone } from '../../../core/rules/comparison';
import { Choice, Names, Tick } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';
import { FURTHER_PARTS, Headers, PART_FIELDS, Words } from './Fields';

type Of<Kind extends SubjectKind> = Extract<Subject, { of: Kind }>;

interface Row<Kind extends SubjectKind> {
  readonly fields: (subject: Of<Kind>, put: (subject: Of<Kind>) => void) => ReactNode;
}

const NOTHING = () => null;

/** The fields of each kind of subject. */
const SUBJECTS: { readonly [Kind in SubjectKind]: Row<Kind> } = {
  header: {
    fields: (subject, put) => (
      <>
        <Headers headers={subject.headers} onChange={(headers) => put({ ...subject, headers })} />
        <WhoseFields within={subject.within} put={(within) => put(withPart(subject, 'within', within))} />
        <TakenOf option={subject.option} put={(option) => put(withPart(subject, 'option', option))} />
        <WhichOne occurrence={subject.occurrence} put={(one) => put(withPart(subject, 'occurrence', one))} />
      </>
    ),
  },
  address: {
    fields: (subject, put) => (
      <>
        <Headers headers={subject.headers} onChange={(headers) => put({ ...subject, headers })} />
        <Choice
          label="Part of the address"
          value={subject.part}
          choices={FURTHER_PARTS}
          onChange={(part) => put({ ...subject, part })}
        />
        <WhoseFields within={subject.within} put={(within) => put(withPart(subject, 'within', within))} />
        <WhichOne occurrence={subject.occurrence} put={(one) => put(withPart(subject, 'occurrence', one))} />
      </>
    ),
  },
  envelope: {
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
    fields: (subject, put) => (
      <Choice
        label="Which text"
        value={subject.transform}
        choices={[
          { value: 'text', label: 'readable text' },
          { value: 'raw', label: 'raw text' },
        ]}
        onChange={(transform) => put({ ...subject, transform })}
      />
    ),
  },
  'body parts': {
    fields: (subject, put) => (
      <Keys label="media types" keys={subject.types} onChange={(types) => put({ ...subject, types })} />
    ),
  },
  date: {
    fields: (subject, put) => (
      <>
        <Words label="Header" value={subject.header} onChange={(header) => put({ ...subject, header })} />
        <WhichOne occurrence={subject.occurrence} put={(one) => put(withPart(subject, 'occurrence', one))} />
        <DatePart part={subject.part} put={(part) => put({ ...subject, part })} />
        <InZone zone={subject.zone} original put={(zone) => put({ ...subject, zone })} />
      </>
    ),
  },
  currentdate: {
    fields: (subject, put) => (
      <>
        <DatePart part={subject.part} put={(part) => put({ ...subject, part })} />
        <InZone zone={subject.zone} original={false} put={(zone) => put({ ...subject, zone })} />
      </>
    ),
  },
  environment: {
    fields: (subject, put) => (
      <Words label="Name of the item" value={subject.name} onChange={(name) => put({ ...subject, name })} />
    ),
  },
  string: {
    fields: (subject, put) => (
      <Keys label="texts" keys={subject.texts} onChange={(texts) => put({ ...subject, texts })} />
    ),
  },
  metadata: {
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
    fields: (subject, put) => (
      <Words label="Annotation" value={subject.annotation} onChange={(annotation) => put({ ...subject, annotation })} />
    ),
  },
  spamtest: {
    fields: (subject, put) => (
      <Tick
        label="in percent"
        checked={subject.percent}
        onChange={(percent) => put({ ...subject, percent: percent === true })}
      />
    ),
  },
  virustest: { fields: NOTHING },
  notify_method_capability: {
    fields: (subject, put) => (
      <>
        <Words label="Whom to notify" value={subject.uri} onChange={(uri) => put({ ...subject, uri })} />
        <Words
          label="Capability"
          value={subject.capability}
          onChange={(capability) => put({ ...subject, capability })}
        />
      </>
    ),
  },
};

/** The same table for any kind; each row gets only subjects of its own. */
const ROWS = SUBJECTS as { readonly [Kind in SubjectKind]: Row<SubjectKind> };

/** What is tested, and where. */
export function SubjectFields({ subject, put }: { subject: Subject; put: (subject: Subject) => void }) {
  return ROWS[subject.of].fields(subject, put);
}

interface WhoseFieldsProps {
  readonly within: PartFields | undefined;
  readonly put: (within: PartFields | undefined) => void;
}

/** Fields of the message, or of its parts (RFC 5703 section 4). */
function WhoseFields({ within, put }: WhoseFieldsProps) {
  return (
    <Choice
      label="Fields of"
      value={within ?? 'message'}
      choices={[{ value: 'message', label: 'of the message' }, ...PART_FIELDS]}
      onChange={(value) => put(value === 'message' ? undefined : value)}
    />
  );
}

interface TakenOfProps {
  readonly option: MimeOption | undefined;
  readonly put: (option: MimeOption | undefined) => void;
}

/** The part of a field's value that is compared (RFC 5703 section 4.2). */
function TakenOf({ option, put }: TakenOfProps) {
  return (
    <>
      <Choice
        label="Part of the value"
        wide
        value={option?.take ?? 'whole'}
        choices={[
          { value: 'whole', label: 'whole value' },
          { value: 'type', label: 'media type' },
          { value: 'subtype', label: 'subtype' },
          { value: 'contenttype', label: 'type and subtype' },
          { value: 'param', label: 'parameters' },
        ]}
        onChange={(take) =>
          put(take === 'whole' ? undefined : take === 'param' ? { take, names: ['filename'] } : { take })
        }
      />
      {option?.take === 'param' && (
        <Names
          label="Names of parameters"
          names={option.names}
          offers={['filename', 'name', 'charset']}
          onChange={(names) => put({ take: 'param', names })}
        />
      )}
    </>
  );
}

interface WhichOneProps {
  readonly occurrence: Occurrence | undefined;
  readonly put: (occurrence: Occurrence | undefined) => void;
}

function WhichOne({ occurrence, put }: WhichOneProps) {
  const side = occurrence ? (occurrence.fromEnd ? 'last' : 'first') : 'all';
  return (
    <>
      <Choice
        label="Which occurrence"
        value={side}
        choices={[
          { value: 'all', label: 'all' },
          { value: 'first', label: 'from the first' },
          { value: 'last', label: 'from the last' },
        ]}
        onChange={(value) =>
          put(value === 'all' ? undefined : { number: occurrence?.number ?? 1, fromEnd: value === 'last' })
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
  { value: 'std11', label: 'as written' },
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
