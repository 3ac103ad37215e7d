import { Checkbox } from '@mantine/core';
import type { ReactNode } from 'react';
import type { QueryTest } from '../../../core/rules/comparison';
import type { LeafTest, TestTree } from '../../../core/rules/rule';
import { Choice } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';
import { WrittenTest } from './Compared';
import { Headers, Words } from './Fields';

type Kind = QueryTest['test'];
type Of<K extends Kind> = Extract<QueryTest, { test: K }>;

interface Row<K extends Kind> {
  readonly title: string;
  readonly fields: (query: Of<K>, put: (query: Of<K>) => void) => ReactNode;
}

/** For each kind of question, how it is put and its fields. */
const QUERIES: { readonly [K in Kind]: Row<K> } = {
  'exists-in-parts': {
    title: 'a part has the header',
    fields: (query, put) => <Headers headers={query.headers} onChange={(headers) => put({ ...query, headers })} />,
  },
  mailboxexists: {
    title: 'these folders exist',
    fields: (query, put) => (
      <Keys label="folders" keys={query.folders} onChange={(folders) => put({ ...query, folders })} />
    ),
  },
  metadataexists: {
    title: 'the folder has these annotations',
    fields: (query, put) => (
      <>
        <Words label="Folder" value={query.folder} onChange={(folder) => put({ ...query, folder })} />
        <Keys label="annotations" keys={query.annotations} onChange={(annotations) => put({ ...query, annotations })} />
      </>
    ),
  },
  servermetadataexists: {
    title: 'the server has these annotations',
    fields: (query, put) => (
      <Keys label="annotations" keys={query.annotations} onChange={(annotations) => put({ ...query, annotations })} />
    ),
  },
  specialuse_exists: {
    title: 'a folder has this use',
    fields: (query, put) => <Keys label="uses" keys={query.uses} onChange={(uses) => put({ ...query, uses })} />,
  },
  valid_notify_method: {
    title: 'the server can notify',
    fields: (query, put) => <Keys label="whom" keys={query.uris} onChange={(uris) => put({ ...query, uris })} />,
  },
  valid_ext_list: {
    title: 'the server has the list',
    fields: (query, put) => <Keys label="lists" keys={query.names} onChange={(names) => put({ ...query, names })} />,
  },
  ihave: {
    title: 'the server knows',
    fields: (query, put) => (
      <Keys
        label="capabilities"
        keys={query.capabilities}
        onChange={(capabilities) => put({ ...query, capabilities })}
      />
    ),
  },
  convert: {
    title: 'the server can convert',
    fields: (query, put) => (
      <>
        <Words label="From the type" value={query.from} onChange={(from) => put({ ...query, from })} />
        <Words label="Into the type" value={query.to} onChange={(to) => put({ ...query, to })} />
      </>
    ),
  },
  duplicate: {
    title: 'it has come before',
    fields: (query, put) => (
      <>
        <Choice
          label="Told by"
          value={query.identity?.by ?? 'message-id'}
          choices={[
            { value: 'message-id', label: 'by its Message-ID' },
            { value: 'header', label: 'by the header' },
            { value: 'uniqueid', label: 'by the mark' },
          ]}
          onChange={(by) =>
            put({ ...query, identity: by === 'message-id' ? null : { by, of: query.identity?.of ?? 'X-Event-ID' } })
          }
        />
        {query.identity && (
          <Words
            label="Header or mark"
            value={query.identity.of}
            onChange={(of) => query.identity && put({ ...query, identity: { ...query.identity, of } })}
          />
        )}
        <Checkbox
          size="xs"
          label="counted from the last one"
          checked={query.last}
          onChange={(event) => put({ ...query, last: event.currentTarget.checked })}
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

/** A question for what is there or what a server can do. */
export function Query({ test, put, onChange }: Props) {
  // Each row is given only questions of its own kind.
  const row = QUERIES[test.test] as Row<Kind>;
  return (
    <>
      <span className={classes.fixed}>{row.title}</span>
      {row.fields(test, put)}
      <WrittenTest test={test} onChange={onChange} />
    </>
  );
}
