'use client';

import { Button, Loader } from '@mantine/core';
import dynamic from 'next/dynamic';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { ScriptView } from '../../server/chain/script-view';
import { ChangePreview } from '../common/ChangePreview';
import { ofManyRules } from '../common/ofManyRules';
import { useKeptText } from '../common/useKeptText';
import { WhyButton } from '../common/WhyButton';
import { Faults, MadeRules, useReading } from './Read';
import classes from './ScriptDesk.module.css';

const CodeEditor = dynamic(() => import('./CodeEditor'), {
  ssr: false,
  loading: () => <Loader size="sm" type="dots" className={classes.loading} />,
});

/** A part of the chain, or the whole chain, as text, with the rules read from the text and their effect. */
function ScriptDesk({ auditId, view }: { auditId: string; view: ScriptView }) {
  // The edited part is fixed when editing begins, whatever happens to the chain meanwhile.
  const [base] = useState(view);
  const router = useRouter();
  const [text, setText, letGo] = useKeptText(`script ${auditId} ${base.ids?.[0] ?? ''}`, asLines(base.text));
  const { reading, behind, failure } = useReading(base.chain, base.ids, text);
  const [goTo, setGoTo] = useState<{ offset: number } | null>(null);
  const [cursor, setCursor] = useState(0);
  const [trial, setTrial] = useState<Edit | null>(null);
  const made = reading?.made ?? [];
  const here = made.findLastIndex(({ place }) => place.start <= cursor);
  const change = (to: string) => {
    setTrial(null);
    setText(to);
  };
  const go = (offset: number) => setGoTo({ offset });
  const back = (id?: string) => router.push(`/audits/${auditId}/chain${id ? `#${id}` : ''}`);
  const done = (isMade: boolean) => {
    setTrial(null);
    if (!isMade) return;
    letGo();
    back(reading?.edit?.after[0]?.id);
  };
  return (
    <div className={classes.page}>
      <section className={classes.left} aria-label="The text">
        <header className={classes.head}>
          <h1 className={classes.title}>{base.title} as Sieve</h1>
          <Link href="/language">Sieve language reference</Link>
        </header>
        <div className={classes.editor}>
          <CodeEditor text={text} faults={reading?.faults ?? []} goTo={goTo} onChange={change} onCursor={setCursor} />
        </div>
        <Faults faults={reading?.faults ?? []} onGo={go} />
      </section>
      <section className={classes.right} aria-label="Rules in this text">
        <header className={classes.head}>
          <h2 className={classes.count}>{countWords(made.length)}</h2>
          {behind && !failure && <Loader size="xs" type="dots" aria-hidden />}
        </header>
        {failure && <p>The text has errors: {failure}.</p>}
        <div className={classes.rules}>
          <MadeRules made={made} here={here} onGo={go} />
        </div>
        <footer className={classes.foot}>
          {trial ? (
            <ChangePreview
              auditId={auditId}
              edits={[trial]}
              why=""
              onDone={() => done(false)}
              onMade={() => done(true)}
            />
          ) : (
            <>
              <WhyButton
                size="compact-md"
                why={
                  behind
                    ? 'The text is being read.'
                    : reading?.edit
                      ? null
                      : 'Change the text first, and correct its faults.'
                }
                onClick={() => setTrial(reading?.edit ?? null)}
              >
                Preview
              </WhyButton>
              <WhyButton
                size="compact-md"
                variant="default"
                onClick={() => change(asLines(base.text))}
                why={!reading?.edit ? 'The text is as it was.' : null}
              >
                Reset
              </WhyButton>
              <Button size="compact-md" variant="subtle" onClick={() => back(base.ids?.[0])}>
                Back to the chain
              </Button>
              <p className={classes.soft}>{stateWords(behind, reading?.edit != null)}</p>
            </>
          )}
        </footer>
      </section>
    </div>
  );
}

export const ScriptDeskFromText = ofManyRules(ScriptDesk);

/** The editor counts lines by LF alone. */
const asLines = (text: string): string => text.replace(/\r\n?/g, '\n');

const countWords = (count: number): string => (count === 1 ? 'One rule' : `${count} rules`);

function stateWords(behind: boolean, changed: boolean): string {
  if (behind) return 'Reading …';
  return changed ? 'The text differs from the chain. Nothing is changed yet.' : 'The text is identical to the chain.';
}
