'use client';

import { Checkbox, TextInput } from '@mantine/core';
import { useDebouncedValue } from '@mantine/hooks';
import { useState } from 'react';
import type { Destination } from '../../server/chain/destinations';
import { probeAnswer, triedAnswer } from '../../server/http/answers';
import type { TracedView } from '../../server/mail/message-view';
import type { ProbeLine } from '../../server/mail/probes';
import { useAct, useAnswerTo } from '../common/answers';
import { call, tell } from '../common/api';
import { Fate } from '../common/Fate';
import { formatPart } from '../common/format';
import { Head } from '../common/Head';
import { TextButton } from '../common/TextButton';
import { WhyButton } from '../common/WhyButton';
import { Fields } from '../message/Text';
import { TracedRules } from '../message/TracedRules';
import classes from './Probes.module.css';

interface Props {
  readonly auditId: string;
  readonly probes: readonly ProbeLine[];
  readonly destinations: readonly Destination[];
  /** The text of a stored message to start from. */
  readonly first: string | null;
}

const BLANK = `From: Ann Weaver <ann@reedbank.example>
To: me@mill.example
Subject: oak beams

Good morning,
the beams are ready.
`;

/** Made-up messages: traced at once, and saved as checks. */
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
      <section className={classes.side}>
        <Kept probes={probes} onOpen={open} onDrop={drop} />
        <label className={classes.label} htmlFor="probe">
          Message to try
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
            placeholder="name to save it under"
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
          <Checkbox
            size="xs"
            label="its destination must stay as it is now"
            checked={expects}
            onChange={(event) => setExpects(event.currentTarget.checked)}
          />
          <WhyButton
            size="compact-sm"
            why={
              name.trim() === ''
                ? 'Enter a name for the probe.'
                : tried.view
                  ? null
                  : 'This message cannot be run through the chain.'
            }
            onClick={keep}
          >
            Save probe
          </WhyButton>
        </div>
      </section>
      <section className={classes.side} aria-label="This message through the chain" aria-busy={tried.view === null}>
        {tried.failure && <p className={classes.failure}>{tried.failure}</p>}
        {tried.view && (
          <>
            <p className={classes.fate}>
              Destination <Fate fate={tried.view.fate} destinations={destinations} />
            </p>
            {tried.view.error && <p className={classes.failure}>The chain fails: {tried.view.error}.</p>}
            <Fields fields={tried.view.fields.filter(({ marks }) => marks.length > 0)} />
            <TracedRules auditId={auditId} view={tried.view} />
          </>
        )}
      </section>
    </div>
  );
}

interface KeptProps {
  readonly probes: readonly ProbeLine[];
  readonly onOpen: (id: number) => void;
  readonly onDrop: (id: number) => void;
}

/** Saved probes, failing ones first. */
export function Kept({ probes, onOpen, onDrop }: KeptProps) {
  const fails = ({ expected, line }: ProbeLine) => expected !== null && expected !== line;
  const checked = probes.filter(({ expected }) => expected !== null);
  if (probes.length === 0) {
    return (
      <>
        <Head>No saved probes yet</Head>
        <p className={classes.soft}>Write a message below, and see its destination at once. Saved, it is a check.</p>
      </>
    );
  }
  return (
    <>
      <Head>
        {formatPart(checked.filter((probe) => !fails(probe)).length, checked.length)} probes have the expected
        destination
      </Head>
      <ul className={classes.kept}>
        {[...probes]
          .sort((a, b) => Number(fails(b)) - Number(fails(a)))
          .map((probe) => (
            <li key={probe.id} data-fails={fails(probe) || undefined}>
              <TextButton onClick={() => onOpen(probe.id)}>
                <bdi>{probe.name}</bdi>
              </TextButton>
              <span>
                {probe.line}
                {fails(probe) && `, where ${probe.expected} is expected`}
                {probe.expected !== null && !fails(probe) && ', as expected'}
              </span>
              <TextButton aria-label={`Remove ${probe.name}`} onClick={() => onDrop(probe.id)}>
                remove
              </TextButton>
            </li>
          ))}
      </ul>
    </>
  );
}

interface Tried {
  /** Null until the first response; the previous one is shown while another is fetched. */
  readonly view: (TracedView & { readonly line: string }) | null;
  readonly failure: string | null;
}

/** Traces a text when typing pauses, and again when the chain may have changed. */
function useTried(auditId: string, text: string, probes: readonly object[]): Tried {
  const [settled] = useDebouncedValue(text, 200);
  const ask = async (signal: AbortSignal) =>
    triedAnswer.parse(await call(`/api/audits/${auditId}/try`, 'POST', { text: settled }, signal));
  // Probes are new objects after every change of the chain.
  const { answer, failure } = useAnswerTo(['try', auditId, settled], probes, ask);
  return { view: answer ?? null, failure };
}
