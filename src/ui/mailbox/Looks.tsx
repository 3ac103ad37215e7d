import Link from 'next/link';
import type { LookLine, LookView, MailboxView } from '../../server/mailbox/view';
import { formatDay, formatMoment, formatNumber, messagesWord } from '../common/format';
import { MaybeLink } from '../common/MaybeLink';
import { Quoted } from '../common/Quoted';
import classes from './Mailbox.module.css';

/** What the last look has shown, and the earlier ones. */
export function Looks({ auditId, view }: { auditId: string; view: MailboxView }) {
  const { last, looks, isFetching, server } = view;
  if (looks.length === 0 && !isFetching) {
    return (
      <p className={classes.soft}>
        The folders appear here once you are connected, with the number and size of their messages, and the Sieve
        scripts. Then choose what to fetch. Only what is new is fetched the next time.
      </p>
    );
  }
  return (
    <>
      {isFetching && <p className={classes.lead}>Mail is being fetched.</p>}
      {last && (
        <LastLook auditId={auditId} look={last} host={server?.host ?? 'the server'} isFirst={looks.length === 1} />
      )}
      {looks.length > 1 && (
        <>
          <h2 className={classes.heading}>Earlier</h2>
          <ul className={classes.looks}>
            {looks.slice(isFetching ? 0 : 1).map((look) => (
              <li key={look.id}>
                <span>{formatMoment(look.startedAt)}</span>
                <MaybeLink path={mailOf(auditId, look)}>{foundWords(look)}</MaybeLink>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
}

const mailOf = (auditId: string, { sourceId, added }: LookLine): string | null =>
  sourceId === null || added === 0 ? null : `/audits/${auditId}/mail?source=${sourceId}`;

function foundWords({ added, flagged, gone, finishedAt }: LookLine): string {
  if (finishedAt === null) return 'under way';
  const parts = [
    added > 0 ? `${formatNumber(added)} new` : '',
    flagged > 0 ? `${formatNumber(flagged)} with other flags` : '',
    gone > 0 ? `${formatNumber(gone)} no longer on the server` : '',
  ].filter(Boolean);
  return parts.length === 0 ? 'nothing new' : parts.join(', ');
}

interface LastProps {
  readonly auditId: string;
  readonly look: LookView;
  readonly host: string;
  /** Whether nothing was fetched before. */
  readonly isFirst: boolean;
}

function LastLook({ auditId, look, host, isFirst }: LastProps) {
  const { added, flagged, gone, trouble, finishedAt } = look;
  const base = `/audits/${auditId}`;
  return (
    <>
      <p className={classes.lead}>
        <MaybeLink path={mailOf(auditId, look)}>
          {added === 0 ? 'No new message' : `${messagesWord(added)} fetched`}
        </MaybeLink>
        {finishedAt !== null && <span className={classes.when}> {formatMoment(finishedAt)}</span>}
      </p>
      {flagged > 0 && <p>{messagesWord(flagged)} with other flags than before.</p>}
      {gone > 0 && (
        <p>
          {messagesWord(gone)} {gone === 1 ? 'is' : 'are'} no longer on the server and no longer counted here.{' '}
          <Link href={`${base}/gather`}>Restore {gone === 1 ? 'it' : 'them'}</Link>
        </p>
      )}
      {trouble && <p className={classes.failure}>{trouble}</p>}
      <ScriptWords auditId={auditId} script={look.script} host={host} />
      <Broken base={base} look={look} />
      {!isFirst && <NewFindings base={base} look={look} />}
      <Destinations base={base} look={look} />
    </>
  );
}

function ScriptWords({ auditId, script, host }: { auditId: string; script: LookView['script']; host: string }) {
  if (!script) return null;
  if (script.found === 'none') return <p>No script is in use on {host}.</p>;
  if (script.found === 'nothing') return <p>The script in use could not be read. {script.why}</p>;
  const { name, standing } = script;
  const server = <Link href={`/audits/${auditId}/server`}>See the scripts</Link>;
  switch (standing?.is) {
    case 'uploaded':
      return (
        <p>
          The script in use, “{name}”, is the one uploaded from here on {formatDay(standing.at)}.
        </p>
      );
    case 'another than uploaded':
      return (
        <p className={classes.failure}>
          The script in use, “{name}”, is not the one uploaded from here on {formatDay(standing.at)}. {server}
        </p>
      );
    case 'imported':
      return (
        <p>
          The script in use, “{name}”, is still the one imported as “{standing.fileName}”.
        </p>
      );
    default:
      return (
        <p>
          The script in use, “{name}”, was neither imported into this audit nor uploaded from it. {server}
        </p>
      );
  }
}

function Broken({ base, look: { broken, added, sourceId } }: { base: string; look: LookView }) {
  if (added === 0) return null;
  if (broken === null) return <p className={classes.soft}>Expectations are checked once the simulation is done.</p>;
  if (broken.length === 0) return null;
  return (
    <>
      <h2 className={classes.heading}>Expectations that new messages break</h2>
      <ul className={classes.looks}>
        {broken.map(({ id, words, messages }) => (
          <li key={id}>
            <span>{words}</span>
            <MaybeLink path={sourceId && `${base}/mail?breaks=${id}&source=${sourceId}`}>
              {messagesWord(messages)}
            </MaybeLink>
          </li>
        ))}
      </ul>
    </>
  );
}

const SHOWN_FINDINGS = 12;

function NewFindings({ base, look: { findings } }: { base: string; look: LookView }) {
  if (findings === null) return null;
  if (findings.length === 0) return <p>No new findings.</p>;
  return (
    <>
      <h2 className={classes.heading}>
        {formatNumber(findings.length)} {findings.length === 1 ? 'new finding' : 'new findings'}
      </h2>
      <ul className={classes.claims}>
        {findings.slice(0, SHOWN_FINDINGS).map(({ key, claim }) => (
          <li key={key}>
            <Link href={`${base}/findings?finding=${encodeURIComponent(key)}`}>
              <Quoted>{claim}</Quoted>
            </Link>
          </li>
        ))}
      </ul>
      {findings.length > SHOWN_FINDINGS && (
        <p className={classes.soft}>
          The first {SHOWN_FINDINGS} are listed. <Link href={`${base}/findings`}>See all findings</Link>
        </p>
      )}
    </>
  );
}

function Destinations({ base, look: { destinations, added, sourceId } }: { base: string; look: LookView }) {
  if (added === 0) return null;
  if (destinations === null) return <p className={classes.soft}>Destinations appear once the simulation is done.</p>;
  return (
    <>
      <h2 className={classes.heading}>Where the chain takes the new messages</h2>
      <ul className={classes.looks}>
        {destinations.map(({ key, label, messages }) => (
          <li key={key}>
            <bdi>{label}</bdi>
            <MaybeLink path={sourceId && `${base}/mail?fate=${encodeURIComponent(key)}&source=${sourceId}`}>
              {messagesWord(messages)}
            </MaybeLink>
          </li>
        ))}
      </ul>
    </>
  );
}
