'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { Destination } from '../../server/chain/destinations';
import { ODDITY_WORDS } from '../../server/gather/oddities';
import type { MessageView } from '../../server/mail/message-view';
import { Fate } from '../common/Fate';
import { formatBytes, formatMoment, formatNumber } from '../common/format';
import { ofManyRules } from '../common/ofManyRules';
import { TextButton } from '../common/TextButton';
import { Absence } from './Absence';
import classes from './Message.module.css';
import { Body, Fields, Source } from './Text';
import { TracedRules } from './TracedRules';

interface Props {
  readonly auditId: string;
  readonly view: MessageView;
  readonly destinations: readonly Destination[];
}

const FIRST_FIELDS = ['from', 'to', 'cc', 'subject', 'date', 'list-id', 'reply-to'];

/** A message as evidence: its text with numbered marks on one side, the rules tried with the same numbers on the other. */
function Message({ auditId, view, destinations }: Props) {
  const [allFields, setAllFields] = useState(false);
  const shown = view.fields.filter(
    ({ name, marks }) => allFields || marks.length > 0 || FIRST_FIELDS.includes(name.toLowerCase()),
  );
  const subject = view.fields.find(({ name }) => name.toLowerCase() === 'subject')?.value;
  return (
    <div className={classes.page}>
      <article className={classes.text}>
        <h1 className={classes.subject} dir="auto">
          {subject || '(no subject)'}
        </h1>
        <dl className={classes.facts}>
          <dt>{view.folders.length === 1 ? 'In folder' : 'In folders'}</dt>
          <dd>{view.folders.join(', ')}</dd>
          {view.received !== null && (
            <>
              <dt>Arrived</dt>
              <dd>{formatMoment(view.received)}</dd>
            </>
          )}
          <dt>Destination</dt>
          <dd>
            {view.sent && 'You sent this message, so it is not counted. Treated as incoming mail: '}
            <Fate fate={view.fate} destinations={destinations} />
          </dd>
        </dl>
        <div className={classes.questions}>
          {!view.sent && !view.fate.places.some(({ key }) => key === 'inbox') && (
            <Absence auditId={auditId} number={view.number} />
          )}
          {view.conversation !== null && view.conversation > 1 && (
            <Link href={`/audits/${auditId}/mail?conversation=${view.number}`}>
              its conversation of {formatNumber(view.conversation)} messages
            </Link>
          )}
          <Link href={`/audits/${auditId}/probes?message=${view.number}`}>edit and try it</Link>
          <Link href={`/audits/${auditId}/examples?messages=${view.number}`}>use as an example</Link>
        </div>
        {view.error && (
          <p className={classes.odd}>
            The chain fails on this message, so it is kept in the inbox and nothing else is done: {view.error}.
          </p>
        )}
        {view.oddities.length > 0 && (
          <p className={classes.odd}>
            Irregular: this message {view.oddities.map((oddity) => ODDITY_WORDS[oddity]).join('; ')}.
          </p>
        )}
        <Fields fields={shown} />
        <TextButton onClick={() => setAllFields(!allFields)}>
          {allFields ? 'Show main fields only' : `All ${formatNumber(view.fields.length)} header fields`}
        </TextButton>
        <Body body={view.body} />
        <Source auditId={auditId} number={view.number} />
        <p className={classes.soft}>
          {formatBytes(view.octets)}, kept byte for byte:{' '}
          <a href={`/api/audits/${auditId}/messages/${view.number}`}>download the original</a> ·{' '}
          <Link href={`/audits/${auditId}/mail`}>all messages</Link>
        </p>
      </article>
      <TracedRules auditId={auditId} view={view} />
    </div>
  );
}

export const MessageFromText = ofManyRules(Message);
