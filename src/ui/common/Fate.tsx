import { flagWords } from '../../core/rules/sentence';
import type { Destination, FateView } from '../../server/chain/destinations';
import classes from './Fate.module.css';
import { Swatch } from './tints';

/** The fate of a message: each destination with its mark and flags. */
export function Fate({ fate, destinations }: { fate: FateView; destinations: readonly Destination[] }) {
  return (
    <span className={classes.fate}>
      {fate.places.map(({ key, label, flags }) => (
        <span key={key} className={classes.place} title={[label, ...flags].join(' ')}>
          <Swatch destination={destinations.find((destination) => destination.key === key)} />
          <span className={classes.label}>
            {label}
            {flags.length > 0 && (
              <span className={classes.flags}>
                {' '}
                {flags.map((flag) => flagWords(flag).replace(/[“”]/g, '')).join(', ')}
              </span>
            )}
          </span>
        </span>
      ))}
    </span>
  );
}
