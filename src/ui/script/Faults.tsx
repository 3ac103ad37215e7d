import type { FaultLine } from './reader.worker';
import classes from './ScriptDesk.module.css';

const SHOWN = 200;

/** What a server would refuse in the text, each with its place. */
export function Faults({ faults, onGo }: { faults: readonly FaultLine[]; onGo: (offset: number) => void }) {
  const grave = faults.filter(({ slight }) => !slight).length;
  const slight = faults.length - grave;
  return (
    <div className={classes.faults} role="status" aria-live="polite">
      <p className={classes.faultCount}>
        {faults.length === 0 && 'A server would take this text.'}
        {grave > 0 && `${graveWords(grave)} kept word for word and not run. `}
        {slight > 0 && `${slight} missing in require: added when the script is exported.`}
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
  count === 1 ? 'One fault: what it stands in is' : `${count} faults: what they stand in is`;
