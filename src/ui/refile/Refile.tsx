'use client';

import Link from 'next/link';
import { joined } from '../../core/rules/words';
import type { RefilePlan } from '../../server/mail/refile-plan';
import { formatNumber, formatPart } from '../common/format';
import { NoMail, Notice } from '../common/Notice';
import classes from './Refile.module.css';

/** The effect of applying the chain to stored mail, and a copy of the mail filed by it. */
export function Refile({ auditId, plan }: { auditId: string; plan: RefilePlan | null }) {
  if (!plan)
    return (
      <Notice title="The chain is not simulated yet">
        Its effect on stored mail appears once the chain is simulated.
      </Notice>
    );
  if (plan.total === 0) return <NoMail auditId={auditId}>There is no mail to apply the chain to.</NoMail>;
  const moving = plan.moves.reduce((sum, { count }) => sum + count, 0);
  return (
    <div className={classes.page}>
      <h1 className={classes.title}>
        Applied to stored mail, the chain would move {formatPart(moving, plan.total)} messages
      </h1>
      <p>
        {formatPart(plan.staying, plan.total)} would stay where they are; {formatNumber(plan.sent)} you sent yourself
        and do not move. Your mailbox is never touched: download a copy, filed as the chain would file it.
      </p>
      <p className={classes.copies}>
        <a href={`/api/audits/${auditId}/refiled?form=mbox`}>Download as mbox files</a>
        <a href={`/api/audits/${auditId}/refiled?form=maildir`}>Download as a Maildir</a>
      </p>
      <table className={classes.moves}>
        <thead>
          <tr>
            <th scope="col">In folder</th>
            <th scope="col">Would be in</th>
            <th scope="col" className={classes.number}>
              Messages
            </th>
          </tr>
        </thead>
        <tbody>
          {plan.moves.map(({ from, to, count }) => (
            <tr key={JSON.stringify([from, to])}>
              <td>{from}</td>
              <td>{to.length === 0 ? 'no folder: discarded, rejected, or only redirected' : joined(to, 'and')}</td>
              <td className={classes.number}>
                <Link href={`/audits/${auditId}/mail?moved=${encodeURIComponent(JSON.stringify([from, to]))}`}>
                  {formatPart(count, plan.total)}
                </Link>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
