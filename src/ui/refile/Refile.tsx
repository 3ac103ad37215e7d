'use client';

import Link from 'next/link';
import type { RefilePlan } from '../../server/mail/refile-plan';
import { formatNumber, formatPart } from '../common/format';
import { NoMail, Notice } from '../common/Notice';
import classes from './Refile.module.css';

/** What would become of the stored mail if the chain were applied to it, and a copy of it filed so. */
export function Refile({ auditId, plan }: { auditId: string; plan: RefilePlan | null }) {
  if (!plan) return <Notice title="The chain is not simulated yet">Its effect on stored mail is not known.</Notice>;
  if (plan.total === 0) return <NoMail auditId={auditId}>Nothing can be filed anew.</NoMail>;
  const moving = plan.moves.reduce((sum, { count }) => sum + count, 0);
  return (
    <div className={classes.page}>
      <h1 className={classes.title}>{formatPart(moving, plan.total)} stored messages would lie elsewhere</h1>
      <p>
        {formatPart(plan.staying, plan.total)} would stay where they lie; {formatNumber(plan.sent)} that you sent
        yourself are left alone. Nothing here touches your mailbox: take a copy, filed as the chain would file it.
      </p>
      <p className={classes.copies}>
        <a href={`/api/audits/${auditId}/refiled?form=mbox`}>Take the copy as mbox files</a>
        <a href={`/api/audits/${auditId}/refiled?form=maildir`}>Take the copy as a Maildir</a>
      </p>
      <table className={classes.moves}>
        <thead>
          <tr>
            <th scope="col">Lies now in</th>
            <th scope="col">Would lie in</th>
            <th scope="col" className={classes.number}>
              Messages
            </th>
          </tr>
        </thead>
        <tbody>
          {plan.moves.map(({ from, to, count }) => (
            <tr key={JSON.stringify([from, to])}>
              <td>{from}</td>
              <td>{to.length === 0 ? 'no folder: dropped, refused, or only sent on' : to.join(' and ')}</td>
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
