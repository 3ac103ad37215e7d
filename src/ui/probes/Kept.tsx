import type { ProbeLine } from '../../server/mail/probes';
import { formatPart } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Probes.module.css';

interface KeptProps {
  readonly probes: readonly ProbeLine[];
  readonly onOpen: (id: number) => void;
  readonly onDrop: (id: number) => void;
}

/** The probes that are kept, those that do not end as they must first. */
export function Kept({ probes, onOpen, onDrop }: KeptProps) {
  const fails = ({ expected, line }: ProbeLine) => expected !== null && expected !== line;
  const checked = probes.filter(({ expected }) => expected !== null);
  if (probes.length === 0) {
    return <p className={classes.soft}>No probe is kept yet. Write a message below, and see at once where it goes.</p>;
  }
  return (
    <>
      <p className={classes.sum}>
        {formatPart(checked.filter((probe) => !fails(probe)).length, checked.length)} standing checks hold
      </p>
      <ul className={classes.kept}>
        {[...probes]
          .sort((a, b) => Number(fails(b)) - Number(fails(a)))
          .map((probe) => (
            <li key={probe.id} data-fails={fails(probe) || undefined}>
              <TextButton onClick={() => onOpen(probe.id)}>{probe.name}</TextButton>
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
