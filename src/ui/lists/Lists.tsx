'use client';

import { Button, TextInput } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { NamedList } from '../../core/rules/rule';
import { isSame } from '../../core/rules/same';
import { ownJson } from '../../core/text/lookup';
import type { ListLine, ListsView } from '../../server/chain/lists-view';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber } from '../common/format';
import { Head } from '../common/Head';
import { TextButton } from '../common/TextButton';
import { useKeptText } from '../common/useKeptText';
import { WhyButton } from '../common/WhyButton';
import { Keys } from '../rule/Keys';
import classes from './Lists.module.css';

/** Named lists that tests use. A change affects all rules that use the list, and is previewed. */
export function Lists({ auditId, view }: { auditId: string; view: ListsView }) {
  const [chosen, choose] = useState<string | null>(view.senders.length > 0 ? null : (view.lists[0]?.id ?? null));
  const list = view.lists.find(({ id }) => id === chosen) ?? null;
  return (
    <div className={classes.page}>
      <section className={classes.index} aria-label="Lists">
        <Head
          action={
            view.lists.length > 0 && (
              <Button size="compact-sm" variant="default" disabled={chosen === null} onClick={() => choose(null)}>
                New list
              </Button>
            )
          }
        >
          {titleOf(view.lists.length)}
        </Head>
        <p className={classes.soft}>
          A list holds addresses, domains or words under a name. Tests that use the list look for each of its entries.
        </p>
        <ul className={classes.lines}>
          {view.lists.map(({ id, name, keys, usedBy }) => (
            <li key={id}>
              <TextButton aria-current={id === chosen || undefined} onClick={() => choose(id)}>
                {name}
              </TextButton>
              <span className={classes.soft}>
                {formatNumber(keys.length)} entries, used by {formatNumber(usedBy.length)}{' '}
                {usedBy.length === 1 ? 'rule' : 'rules'}
              </span>
            </li>
          ))}
        </ul>
      </section>
      <ListEditor key={`${chosen} ${JSON.stringify(list)}`} auditId={auditId} list={list} senders={view.senders} />
    </div>
  );
}

function titleOf(count: number): string {
  if (count === 0) return 'There are no lists yet';
  return count === 1 ? 'One named list' : `${formatNumber(count)} named lists`;
}

interface EditorProps {
  readonly auditId: string;
  /** Null for a new one. */
  readonly list: ListLine | null;
  readonly senders: readonly string[];
}

function ListEditor({ auditId, list, senders }: EditorProps) {
  const before: NamedList | null = list && { id: list.id, name: list.name, keys: list.keys };
  const beginning = JSON.stringify({ name: list?.name ?? '', keys: list?.keys ?? senders });
  const [text, keep, letGo] = useKeptText(`list ${auditId} ${list?.id ?? 'new'}`, beginning);
  const { name, keys } = ownJson<Pick<NamedList, 'name' | 'keys'>>(text);
  const put = (change: Partial<NamedList>) => {
    keep(JSON.stringify({ name, keys, ...change }));
    look(null);
  };
  const [looked, look] = useState<readonly Edit[] | null>(null);
  const router = useRouter();
  const fault = faultOf(name, keys, list);
  const isUnchanged = before !== null && isSame(before, { ...before, name: name.trim(), keys });
  const changed = (): Edit[] => {
    const id = list?.id ?? `list-${crypto.randomUUID()}`;
    return [{ kind: 'list', id, from: before, to: { id, name: name.trim(), keys } }];
  };
  const unknown = senders.filter((address) => !keys.includes(address));
  return (
    <section className={classes.editor} aria-label={list ? `The list ${list.name}` : 'A new list'}>
      <TextInput
        size="xs"
        label="Name"
        maxLength={200}
        value={name}
        onChange={(event) => put({ name: event.currentTarget.value })}
      />
      <h2 className={classes.heading}>Entries: {formatNumber(keys.length)}</h2>
      <Keys label="addresses" placeholder="one entry a line" keys={keys} onChange={(next) => put({ keys: next })} />
      {unknown.length > 0 && (
        <p>
          <TextButton onClick={() => put({ keys: [...keys, ...unknown] })}>
            add the {unknown.length === 1 ? 'sender' : `${formatNumber(unknown.length)} senders`} of the selected
            messages
          </TextButton>
        </p>
      )}
      <h2 className={classes.heading}>Where it is used</h2>
      {list && list.usedBy.length > 0 ? (
        <ul className={classes.users}>
          {list.usedBy.map((rule) => (
            <li key={rule.id}>
              <Link href={`/audits/${auditId}/rule?rule=${encodeURIComponent(rule.id)}`}>{rule.name}</Link>
            </li>
          ))}
        </ul>
      ) : (
        <p className={classes.soft}>
          No rule uses this list yet. In a <Link href={`/audits/${auditId}/rule`}>rule</Link>, a test can use a list
          instead of keys of its own.
        </p>
      )}
      {fault && <p role="alert">{fault}</p>}
      <div className={classes.buttons}>
        <WhyButton
          size="compact-sm"
          why={fault ?? (isUnchanged ? 'Change the list first.' : null)}
          onClick={() => look(changed())}
        >
          Preview
        </WhyButton>
        {before && list?.usedBy.length === 0 && (
          <Button
            size="compact-sm"
            variant="default"
            onClick={() => look([{ kind: 'list', id: before.id, from: before, to: null }])}
          >
            Delete list
          </Button>
        )}
      </div>
      {looked && (
        <ChangePreview
          auditId={auditId}
          edits={looked}
          why=""
          onDone={() => look(null)}
          onMade={() => {
            letGo();
            look(null);
            router.replace(`/audits/${auditId}/lists`);
          }}
        />
      )}
    </section>
  );
}

function faultOf(name: string, keys: readonly string[], list: ListLine | null): string | null {
  if (name.trim() === '') return 'The list has no name.';
  if (keys.length === 0 && list && list.usedBy.length > 0) return 'Rules use this list, so it cannot be empty.';
  if (keys.some((key) => key === '')) return 'The list contains an empty line.';
  return null;
}
