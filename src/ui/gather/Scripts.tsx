import Link from 'next/link';
import { useState } from 'react';
import type { Edit } from '../../core/rules/edit';
import type { ScriptSource, ScriptStep } from '../../server/gather/script-sources';
import { editsAnswer } from '../../server/http/answers';
import { call, sendTo, tell } from '../common/api';
import { ChangePreview } from '../common/ChangePreview';
import { formatNumber } from '../common/format';
import { TextButton } from '../common/TextButton';
import { FileButton } from './Fields';
import classes from './Gather.module.css';

interface Step {
  readonly script: string;
  readonly edits: readonly Edit[];
  readonly words: string;
}

/** The files of rules in running order. They can be moved, removed and read again, each with a preview. */
export function Scripts({ auditId, scripts }: { auditId: string; scripts: readonly ScriptSource[] }) {
  const [step, setStep] = useState<Step | null>(null);
  const inChain = scripts.filter(({ entries }) => entries.length > 0);
  const look = async (script: string, ask: () => Promise<unknown>) => {
    try {
      const { edits, words } = editsAnswer.parse(await ask());
      if (edits.length === 0) tell('This would change nothing in the chain.');
      setStep(edits.length === 0 ? null : { script, edits, words });
    } catch (error) {
      tell(error);
    }
  };
  if (scripts.length === 0) return <p className={classes.soft}>No rules have been imported yet.</p>;
  return scripts.map((script) => (
    <article key={script.id} id={`script-${script.id}`} className={classes.item}>
      <div className={classes.itemHead}>
        <strong dir="auto">{script.fileName}</strong>
        <span>
          {formatNumber(script.rules)} {script.rules === 1 ? 'rule' : 'rules'}
          {script.blocks > 0 && `, ${formatNumber(script.blocks)} kept word for word`}
          {script.entries.length === 0 && ', none of them in the chain'}
        </span>
      </div>
      <Steps
        script={script}
        place={inChain.indexOf(script)}
        last={inChain.length - 1}
        onStep={(way) =>
          look(script.id, () => call(`/api/audits/${auditId}/scripts/${script.id}`, 'POST', { step: way }))
        }
        onRead={(file) => look(script.id, () => sendTo(`/api/audits/${auditId}/scripts/${script.id}/reading`, file))}
      />
      {/\.(csv|tsv)$/i.test(script.fileName) && script.faults.length > 0 && (
        <p>
          <Link href={`/audits/${auditId}/sheet?script=${script.id}`}>the rejected rows, for correction</Link>
        </p>
      )}
      {step?.script === script.id && (
        <ChangePreview auditId={auditId} edits={step.edits} words={step.words} why="" onDone={() => setStep(null)} />
      )}
      {script.faults.length > 0 && (
        <ol className={classes.faults}>
          {script.faults.map(({ words, entry }) => (
            <li key={words} className="mono">
              {entry === null ? words : <Link href={`/audits/${auditId}/chain#${entry}`}>{words}</Link>}
            </li>
          ))}
        </ol>
      )}
    </article>
  ));
}

interface StepsProps {
  readonly script: ScriptSource;
  /** Index among the scripts of the chain; -1 if none of its rules is in it. */
  readonly place: number;
  readonly last: number;
  readonly onStep: (step: ScriptStep) => void;
  readonly onRead: (file: File) => void;
}

function Steps({ script, place, last, onStep, onRead }: StepsProps) {
  const { fileName } = script;
  return (
    <p className={classes.steps}>
      {place > 0 && (
        <TextButton aria-label={`move up: ${fileName}`} onClick={() => onStep('up')}>
          move up
        </TextButton>
      )}
      {place >= 0 && place < last && (
        <TextButton aria-label={`move down: ${fileName}`} onClick={() => onStep('down')}>
          move down
        </TextButton>
      )}
      {place >= 0 && (
        <TextButton aria-label={`remove: ${fileName}`} onClick={() => onStep('remove')}>
          remove
        </TextButton>
      )}
      <FileButton words="read again" label={`read again: ${fileName}`} onFile={onRead} />
    </p>
  );
}
