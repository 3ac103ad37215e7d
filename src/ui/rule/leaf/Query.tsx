import { NumberInput } from '@mantine/core';
import type { ReactNode } from 'react';
import type { QueryTest } from '../../../core/rules/comparison';
import type { LeafTest, TestTree } from '../../../core/rules/rule';
import { Choice, Tick, USES } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';
import { Question, WrittenTest } from './Compared';
import { Headers, PART_FIELDS, Words } from './Fields';

type Kind = QueryTest['test'];
type Of<K extends Kind> = Extract<QueryTest, { test: K }>;

interface Row<K extends Kind> {
  readonly fields: (query: Of<K>, put: (query: Of<K>) => void) => ReactNode;
}

/** The fields of each kind of query. */
const QUERIES: { readonly [K in Kind]: Row<K> } = {
  'exists-in-parts': {
    fields: (query, put) => (
      <>
        <Headers headers={query.headers} onChange={(headers) => put({ ...query, headers })} />
        <Choice
          label="Fields of"
          value={query.within}
          choices={PART_FIELDS}
          onChange={(within) => put({ ...query, within })}
        />
      </>
    ),
  },
  mailboxexists: {
    fields: (query, put) => (
      <Keys label="folders" keys={query.folders} onChange={(folders) => put({ ...query, folders })} />
    ),
  },
  metadataexists: {
    fields: (query, put) => (
      <>
        <Words label="Folder" value={query.folder} onChange={(folder) => put({ ...query, folder })} />
        <Keys label="annotations" keys={query.annotations} onChange={(annotations) => put({ ...query, annotations })} />
      </>
    ),
  },
  servermetadataexists: {
    fields: (query, put) => (
      <Keys label="annotations" keys={query.annotations} onChange={(annotations) => put({ ...query, annotations })} />
    ),
  },
  specialuse_exists: {
    fields: (query, put) => (
      <>
        <Words
          label="Folder, or any"
          value={query.folder ?? ''}
          onChange={(folder) => put({ ...query, folder: folder === '' ? null : folder })}
        />
        <Keys label="uses" keys={query.uses} offers={USES} onChange={(uses) => put({ ...query, uses })} />
      </>
    ),
  },
  valid_notify_method: {
    fields: (query, put) => <Keys label="whom" keys={query.uris} onChange={(uris) => put({ ...query, uris })} />,
  },
  valid_ext_list: {
    fields: (query, put) => <Keys label="lists" keys={query.names} onChange={(names) => put({ ...query, names })} />,
  },
  ihave: {
    fields: (query, put) => (
      <Keys
        label="capabilities"
        keys={query.capabilities}
        onChange={(capabilities) => put({ ...query, capabilities })}
      />
    ),
  },
  convert: {
    fields: (query, put) => (
      <>
        <Words label="From the type" value={query.from} onChange={(from) => put({ ...query, from })} />
        <Words label="Into the type" value={query.to} onChange={(to) => put({ ...query, to })} />
        <Keys label="parameters" keys={query.parameters} onChange={(parameters) => put({ ...query, parameters })} />
      </>
    ),
  },
  duplicate: {
    fields: (query, put) => (
      <>
        <Choice
          label="Identified by"
          value={query.identity?.by ?? 'message-id'}
          choices={[
            { value: 'message-id', label: 'by Message-ID' },
            { value: 'header', label: 'by a header field' },
            { value: 'uniqueid', label: 'by an identifier' },
          ]}
          onChange={(by) =>
            put({ ...query, identity: by === 'message-id' ? null : { by, of: query.identity?.of ?? 'X-Event-ID' } })
          }
        />
        {query.identity && (
          <Words
            label="Field or identifier"
            value={query.identity.of}
            onChange={(of) => query.identity && put({ ...query, identity: { ...query.identity, of } })}
          />
        )}
        <Words
          label="Counted separately, under this name"
          value={query.handle ?? ''}
          onChange={(handle) => put({ ...query, handle: handle === '' ? null : handle })}
        />
        <NumberInput
          size="xs"
          aria-label="Within seconds"
          placeholder="seconds"
          className={classes.short}
          min={0}
          allowDecimal={false}
          value={query.seconds ?? ''}
          onChange={(seconds) => put({ ...query, seconds: seconds === '' ? null : Number(seconds) })}
        />
        <Tick
          label="counted from the latest message"
          checked={query.last}
          onChange={(last) => put({ ...query, last: last === true })}
        />
      </>
    ),
  },
};

interface Props {
  readonly test: QueryTest;
  readonly put: (test: LeafTest) => void;
  readonly onChange: (tree: TestTree) => void;
}

/** A query about the message, its folders or the server. */
export function Query({ test, put, onChange }: Props) {
  // Each row gets only queries of its own kind.
  const row = QUERIES[test.test] as Row<Kind>;
  return (
    <>
      <Question test={test} put={put} />
      {row.fields(test, put)}
      <WrittenTest test={test} onChange={onChange} />
    </>
  );
}
