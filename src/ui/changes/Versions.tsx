'use client';

import { Select, TextInput } from '@mantine/core';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { ChangesView } from '../../server/changes/view';
import { editsAnswer } from '../../server/http/answers';
import { call, tell } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatMoment, formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import classes from './Changes.module.css';

/** Saved versions of the chain: any two can be compared, and the draft restored to any. */
export function Versions({ auditId, view }: { auditId: string; view: ChangesView }) {
  const { before, after, versions } = view;
  const router = useRouter();
  const [name, setName] = useState('');
  const [back, setBack] = useState<{ id: number; edits: Edit[]; words: string } | null>(null);
  const compare = (first: string, second: string) =>
    router.push(`/audits/${auditId}/changes?before=${first}&after=${second}`);
  const keep = async () => {
    try {
      await call(`/api/audits/${auditId}/versions`, 'POST', { name });
      setName('');
      router.refresh();
    } catch (error) {
      tell(error);
    }
  };
  const goBack = async (id: number) => {
    try {
      const answer = editsAnswer.parse(await call(`/api/audits/${auditId}/versions/${id}`, 'GET'));
      if (answer.edits.length === 0) tell('The draft is identical to this version.');
      else setBack({ id, ...answer });
    } catch (error) {
      tell(error);
    }
  };
  const drop = (id: number) =>
    call(`/api/audits/${auditId}/versions/${id}`, 'DELETE')
      .then(() => (before === id || after === id ? compare('baseline', 'draft') : router.refresh()))
      .catch(tell);
  const choices = [
    { value: 'baseline', label: 'as imported' },
    { value: 'draft', label: 'the draft' },
    ...versions.map(({ id, name: called }) => ({ value: String(id), label: called })),
  ];
  return (
    <section aria-label="Versions">
      <h2 className={classes.heading}>Compare</h2>
      <div className={classes.compare}>
        <Select
          size="xs"
          aria-label="First version"
          data={choices}
          value={String(before)}
          allowDeselect={false}
          onChange={(value) => value && compare(value, String(after))}
        />
        <span>with</span>
        <Select
          size="xs"
          aria-label="Second version"
          data={choices}
          value={String(after)}
          allowDeselect={false}
          onChange={(value) => value && compare(String(before), value)}
        />
      </div>
      <h2 className={classes.heading}>Versions</h2>
      <form
        className={classes.compare}
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim() !== '') void keep();
        }}
      >
        <TextInput
          size="xs"
          aria-label="Version name"
          placeholder="name this version of the draft"
          maxLength={200}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <WhyButton
          size="compact-sm"
          variant="default"
          type="submit"
          why={name.trim() === '' ? 'Enter a name for the version.' : null}
        >
          Save version
        </WhyButton>
      </form>
      <ul className={classes.lines}>
        {versions.map((version) => (
          <li key={version.id}>
            <strong>
              <bdi>{version.name}</bdi>
            </strong>
            <p className={classes.from}>
              {formatMoment(version.createdAt)}, {formatNumber(version.rules)} rules
            </p>
            <p className={classes.actions}>
              <TextButton onClick={() => compare(String(version.id), 'draft')}>compare with the draft</TextButton>
              <TextButton onClick={() => goBack(version.id)}>restore</TextButton>
              <TextButton aria-label={`remove ${version.name}`} onClick={() => drop(version.id)}>
                remove
              </TextButton>
            </p>
            {back?.id === version.id && (
              <ChangePreview
                auditId={auditId}
                edits={back.edits}
                words={back.words}
                why=""
                onDone={() => setBack(null)}
              />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
