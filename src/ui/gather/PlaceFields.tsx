'use client';

import { useRouter } from 'next/navigation';
import type { PlaceField } from '../../core/mail/place-fields';
import { placeFieldAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { call, tell } from '../common/api';
import { formatNumber, formatPart } from '../common/format';
import { TextButton } from '../common/TextButton';
import classes from './Gather.module.css';

/** Proposes a header field as the places of messages, as mailboxes that were saved as one file have it. */
export function PlaceFields({ auditId, of }: { auditId: string; of: object }) {
  const { answer } = useAnswer(placeFieldAnswer, `/api/audits/${auditId}/places`, of);
  const router = useRouter();
  if (!answer) return null;
  const choose = async (field: string | null) => {
    try {
      await call(`/api/audits/${auditId}/places`, 'PUT', { field });
      router.refresh();
    } catch (error) {
      tell(error);
    }
  };
  if (answer.chosen !== null)
    return (
      <p className={classes.proposal} role="note">
        Folders come from the field <code>{answer.chosen}</code>, where a message has it.{' '}
        <TextButton onClick={() => choose(null)}>Take them from the files again</TextButton>
      </p>
    );
  return answer.proposed.slice(0, SHOWN).map((field) => (
    <p key={field.name} className={classes.proposal} role="note">
      {formatPart(field.messages, answer.total)} messages have a field <code>{field.name}</code> that looks like their
      place: {placesWords(field)}
      {field.several > 0 && `; ${formatNumber(field.several)} are in several`}.{' '}
      <TextButton onClick={() => choose(field.name)}>Take folders from it</TextButton>
    </p>
  ));
}

const SHOWN = 2;
const NAMED = 4;

function placesWords({ places }: PlaceField): string {
  const named = places.slice(0, NAMED).map(({ place, messages }) => `${place} (${formatNumber(messages)})`);
  const more = places.length - named.length;
  return `${named.join(', ')}${more > 0 ? ` and ${formatNumber(more)} more` : ''}`;
}
