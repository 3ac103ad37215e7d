'use client';

import { Button, Checkbox, TextInput, VisuallyHidden } from '@mantine/core';
import { useState } from 'react';
import type { Destination } from '../../server/chain/destinations';
import { probeAnswer } from '../../server/http/answers';
import type { ProbeLine } from '../../server/mail/probes';
import { call, tell } from '../common/api';
import { Fate } from '../common/Fate';
import { useAct } from '../common/useAct';
import { Fields } from '../message/Fields';
import { TracedRules } from '../message/TracedRules';
import { Kept } from './Kept';
import classes from './Probes.module.css';
import { useTried } from './useTried';

interface Props {
  readonly auditId: string;
  readonly probes: readonly ProbeLine[];
  readonly destinations: readonly Destination[];
  /** The text of a stored message to begin with. */
  readonly first: string | null;
}

const BLANK = `From: Ann Weaver <ann@reedbank.example>
To: me@mill.example
Subject: oak beams

Good morning,
the beams are ready.
`;

/** Made-up messages: their way through the chain at once, and those that are kept as standing checks. */
export function Probes({ auditId, probes, destinations, first }: Props) {
  const [text, setText] = useState(first ?? BLANK);
  const [name, setName] = useState('');
  const [expects, setExpects] = useState(true);
  const tried = useTried(auditId, text, probes);
  const { act } = useAct();
  const keep = async () => {
    const expected = expects && tried.view ? tried.view.line : null;
    if (await act(() => call(`/api/audits/${auditId}/probes`, 'POST', { name, text, expected }))) setName('');
  };
  const open = async (id: number) => {
    const read = async () => probeAnswer.parse(await call(`/api/audits/${auditId}/probes/${id}`, 'GET'));
    await read().then((probe) => setText(probe.text), tell);
  };
  const drop = (id: number) => act(() => call(`/api/audits/${auditId}/probes/${id}`, 'DELETE'));
  return (
    <div className={classes.page}>
      <VisuallyHidden component="h1">Probes</VisuallyHidden>
      <section className={classes.side}>
        <Kept probes={probes} onOpen={open} onDrop={drop} />
        <label className={classes.label} htmlFor="probe">
          A message to try, as it would come
        </label>
        <textarea
          id="probe"
          className={classes.text}
          value={text}
          spellCheck={false}
          onChange={(event) => setText(event.currentTarget.value)}
        />
        <div className={classes.keep}>
          <TextInput
            size="xs"
            aria-label="Name of the probe"
            placeholder="a name to keep it under"
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <Checkbox
            size="xs"
            label="it must always end as it does now"
            checked={expects}
            onChange={(event) => setExpects(event.currentTarget.checked)}
          />
          <Button size="compact-sm" disabled={name.trim() === '' || !tried.view} onClick={keep}>
            Keep it
          </Button>
        </div>
      </section>
      <section className={classes.side} aria-label="Its way through the chain" aria-busy={tried.view === null}>
        {tried.failure && <p className={classes.failure}>{tried.failure}</p>}
        {tried.view && (
          <>
            <p className={classes.fate}>
              The chain puts it <Fate fate={tried.view.fate} destinations={destinations} />
            </p>
            {tried.view.error && <p className={classes.failure}>The chain ends with an error: {tried.view.error}.</p>}
            <Fields fields={tried.view.fields.filter(({ marks }) => marks.length > 0)} />
            <TracedRules auditId={auditId} view={tried.view} />
          </>
        )}
      </section>
    </div>
  );
}
