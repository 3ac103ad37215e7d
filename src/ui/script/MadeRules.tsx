import { useEffect, useRef } from 'react';
import type { MadeEntry } from './reader.worker';
import classes from './ScriptDesk.module.css';

interface Props {
  readonly made: readonly MadeEntry[];
  /** The one that the cursor stands in. */
  readonly here: number;
  readonly onGo: (offset: number) => void;
}

/** The rules that the text makes, in their order; each leads to its words. */
export function MadeRules({ made, here, onGo }: Props) {
  const current = useRef<HTMLLIElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it scrolls whenever another rule is the current one
  useEffect(() => {
    current.current?.scrollIntoView({ block: 'nearest' });
  }, [here]);
  if (made.length === 0) return <p className={classes.soft}>The text makes no rule yet.</p>;
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
