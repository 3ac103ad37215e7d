import { Button, Loader } from '@mantine/core';
import Link from 'next/link';
import type { RemovalView } from '../../server/gather/mail-sources';
import type { SourceView } from '../../server/gather/view';
import { removalAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { formatNumber, formatPart } from '../common/format';
import { WhyButton } from '../common/WhyButton';
import classes from './Gather.module.css';

interface Props {
  readonly auditId: string;
  readonly source: SourceView;
  readonly onRemove: () => void;
  readonly onCancel: () => void;
}

/** Previews the removal of a file of mail; nothing changes until the user confirms. */
export function Removal({ auditId, source, onRemove, onCancel }: Props) {
  const { answer: view, failure } = useAnswer(removalAnswer, `/api/audits/${auditId}/sources/${source.id}/removal`);
  return (
    <section className={classes.removal} aria-live="polite" aria-label={`Effect of removing ${source.fileName}`}>
      {failure && <p className={classes.refused}>{failure}</p>}
      {!failure && !view && <Loader size="xs" type="dots" />}
      {view && <Effect auditId={auditId} source={source} view={view} />}
      <div className={classes.steps}>
        <WhyButton size="compact-sm" onClick={onRemove} why={!view ? 'The effect is being worked out.' : null}>
          Remove
        </WhyButton>
        <Button size="compact-sm" variant="subtle" onClick={onCancel}>
          Cancel
        </Button>
      </div>
    </section>
  );
}

/** Number of messages that leave each folder; the smallest folders are summed up. */
function placesOf(folders: RemovalView['folders'], messages: number): string {
  const others = folders.reduce((left, { messages: held }) => left - held, messages);
  const named = folders.map(({ folder, messages: held }) => `${formatNumber(held)} in ${folder}`);
  return [...named, ...(others > 0 ? [`${formatNumber(others)} in other folders`] : [])].join(', ');
}

function Effect({ auditId, source, view }: { auditId: string; source: SourceView; view: RemovalView }) {
  const { messages, total, folders, rules, unused } = view;
  if (messages === 0) return <p>No message is removed: other files contain all of them too.</p>;
  return (
    <>
      <p>
        <Link href={`/audits/${auditId}/mail?source=${source.id}`}>{formatPart(messages, total)}</Link> stored messages
        are removed: {placesOf(folders, messages)}. You can restore them later.
      </p>
      {rules && rules.length > 0 && (
        <>
          <p>
            The rules do not change.{' '}
            {unused > 0 &&
              `${unused === 1 ? '1 rule' : `${formatNumber(unused)} rules`} would no longer act on any stored message.`}
          </p>
          <table className={classes.table}>
            <thead>
              <tr>
                <th scope="col">Rule</th>
                <th scope="col" className={classes.number}>
                  acts on
                </th>
                <th scope="col" className={classes.number}>
                  then
                </th>
              </tr>
            </thead>
            <tbody>
              {rules.map(({ id, name, now, after }) => (
                <tr key={id}>
                  <td>
                    <Link href={`/audits/${auditId}/chain#${id}`}>{name}</Link>
                  </td>
                  <td className={classes.number}>
                    <Link href={`/audits/${auditId}/mail?rule=${id}&part=fired`}>{formatNumber(now)}</Link>
                  </td>
                  <td className={classes.number}>{formatNumber(after)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {rules && rules.length === 0 && <p>No rule acts on any of these messages.</p>}
    </>
  );
}
