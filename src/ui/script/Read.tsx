'use client';

import { useEffect, useRef, useState } from 'react';
import type { Chain } from '../../core/rules/rule';
import type { FaultLine, MadeEntry, ReaderQuestion, Reading } from './reader.worker';
import classes from './ScriptDesk.module.css';

const SHOWN = 200;

/** What a server would not accept in the text, each with its position. */
export function Faults({ faults, onGo }: { faults: readonly FaultLine[]; onGo: (offset: number) => void }) {
  const grave = faults.filter(({ slight }) => !slight).length;
  const slight = faults.length - grave;
  return (
    <div className={classes.faults} role="status" aria-live="polite">
      <p className={classes.faultCount}>
        {faults.length === 0 && 'A server would accept this text.'}
        {grave > 0 && `${graveWords(grave)} kept word for word and not run. `}
        {slight > 0 && `${slight} missing in require: added on export.`}
      </p>
      {faults.length > 0 && (
        <ul className={classes.faultList}>
          {faults.slice(0, SHOWN).map(({ span, line, column, words, slight: isSlight }) => (
            <li key={`${span.start} ${words}`}>
              <button type="button" onClick={() => onGo(span.start)} data-slight={isSlight}>
                <span className="mono">
                  {line}:{column}
                </span>{' '}
                {words}
              </button>
            </li>
          ))}
        </ul>
      )}
      {faults.length > SHOWN && <p className={classes.soft}>and {faults.length - SHOWN} more</p>}
    </div>
  );
}

const graveWords = (count: number): string =>
  count === 1 ? 'One error; the command with the error is' : `${count} errors; the commands with errors are`;

interface Props {
  readonly made: readonly MadeEntry[];
  /** The rule at the cursor. */
  readonly here: number;
  readonly onGo: (offset: number) => void;
}

/** The rules read from the text, in order; each links to its words. */
export function MadeRules({ made, here, onGo }: Props) {
  const current = useRef<HTMLLIElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it scrolls whenever another rule is the current one
  useEffect(() => {
    current.current?.scrollIntoView({ block: 'nearest' });
  }, [here]);
  if (made.length === 0) return <p className={classes.soft}>The text contains no rule yet.</p>;
  return (
    <ol className={classes.made}>
      {made.map((entry, index) => (
        <li key={`${index} ${entry.name}`} ref={index === here ? current : undefined} data-here={index === here}>
          <button type="button" onClick={() => onGo(entry.place.start)}>
            <span className={classes.madeName}>
              {entry.name}
              {!entry.on && <em>off</em>}
              {entry.kind === 'script' && <em>{entry.works ? 'script' : 'not run'}</em>}
            </span>
            <span className={classes.madeSentence}>
              {entry.reason ? `Kept word for word: ${entry.reason}.` : entry.sentence}
            </span>
          </button>
        </li>
      ))}
    </ol>
  );
}

export interface ReadingState {
  /** The newest result; null before the first. */
  readonly reading: Reading | null;
  /** Whether the text has changed since the result. */
  readonly behind: boolean;
  /** Why the text cannot be read, if so. */
  readonly failure: string | null;
}

/** Milliseconds without a keystroke before a changed text is read again. */
const REST = 120;

/** Reads an edited part of a chain again whenever typing pauses. */
export function useReading(chain: Chain, ids: readonly string[] | null, text: string): ReadingState {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const [reading, setReading] = useState<Reading | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const [behind, setBehind] = useState(true);
  useEffect(() => {
    const reader = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' });
    const begin: ReaderQuestion = { kind: 'begin', chain, ids };
    reader.postMessage(begin);
    reader.onmessage = ({ data }: MessageEvent<Reading>) => {
      if (data.number !== asked.current) return;
      setReading(data);
      setBehind(false);
    };
    reader.onerror = ({ message }) => setFailure(message || 'the Sieve reader did not start; reload the page');
    worker.current = reader;
    return () => reader.terminate();
  }, [chain, ids]);
  useEffect(() => {
    setBehind(true);
    const timer = setTimeout(() => {
      const question: ReaderQuestion = { kind: 'read', number: ++asked.current, text };
      worker.current?.postMessage(question);
    }, REST);
    return () => clearTimeout(timer);
  }, [text]);
  return { reading, behind, failure };
}
