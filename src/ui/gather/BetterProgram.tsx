'use client';

import Link from 'next/link';
import { betterProfileAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { formatPart } from '../common/format';
import classes from './Gather.module.css';

/** Proposes another way of running the rules, if the stored mail is rather where that way puts it. */
export function BetterProgram({ auditId, of }: { auditId: string; of: object }) {
  const { answer } = useAnswer(betterProfileAnswer, `/api/audits/${auditId}/program`, of);
  if (!answer) return null;
  const { title, lying, now } = answer;
  return (
    <p className={classes.proposal} role="note">
      {formatPart(lying, answer.of)} messages that rules act on are where this way of running puts them: “{title}”. As
      the rules run now, it is {formatPart(now.lying, now.of)}.{' '}
      <Link href={`/audits/${auditId}/program`}>Compare and choose</Link>
    </p>
  );
}
