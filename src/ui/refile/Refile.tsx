'use client';

import { Button, Select } from '@mantine/core';
import Link from 'next/link';
import { useRouter } from 'next/navigation';
import { joined } from '../../core/rules/words';
import type { RefiledSelection, RefileScope } from '../../server/http/shapes';
import type { RefilePlan } from '../../server/mail/refile-plan';
import { formatNumber, formatPart } from '../common/format';
import { Head } from '../common/Head';
import { NoMail, Notice } from '../common/Notice';
import { Balances } from './Balances';
import classes from './Refile.module.css';

/** The effect of applying the chain or one rule to stored mail, and a copy of the mail filed so. */
export function Refile({ auditId, plan }: { auditId: string; plan: RefilePlan | null }) {
  if (!plan)
    return (
      <Notice title="The chain is not simulated yet">
        Its effect on stored mail appears once the chain is simulated.
      </Notice>
    );
  if (plan.stored === 0) {
    return (
      <NoMail auditId={auditId}>
        Here you see which stored messages the chain would move, and download a copy of your mail that is filed so.
      </NoMail>
    );
  }
  const { scope, total, staying, sent, gone, moves, places } = plan;
  const copy = (form: string) => `/api/audits/${auditId}/refiled?${new URLSearchParams({ ...scope, form })}`;
  return (
    <div className={classes.page}>
      <Head
        action={
          <Button component="a" href={copy('mbox')} size="compact-sm">
            Download as mbox files
          </Button>
        }
      >
        {scope.rule === undefined ? 'The chain' : 'The rule'} would move {formatPart(total - staying, total)} messages{' '}
        {scope.mail === 'inbox' ? 'of the inbox' : 'of stored mail'}
      </Head>
      <Scope auditId={auditId} scope={scope} rules={plan.rules} />
      <p>
        {formatPart(staying, total)} would stay where they are, since no rule files them elsewhere
        {gone > 0 && (
          <>
            ; discarded, rejected or only redirected would be{' '}
            <Link href={listPath(auditId, { ...scope, place: '', part: 'gone', of: 'messages' })}>
              {formatNumber(gone)}
            </Link>
          </>
        )}
        . {sent > 0 && scope.mail === 'all' && `${formatNumber(sent)} you sent yourself do not move. `}
        Your mailbox is never touched: download a copy that is filed so, as mbox files or{' '}
        <a href={copy('maildir')}>as a Maildir</a>.
      </p>
      <h2 className={classes.heading}>Each place before and after</h2>
      <Balances places={places} pathOf={(place, part, of) => listPath(auditId, { ...scope, place, part, of })} />
      <h2 className={classes.heading}>What moves where</h2>
      {moves.length === 0 && <p>Nothing moves.</p>}
      {moves.length > 0 && (
        <table className={classes.table} aria-label="What moves where">
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
            {moves.map(({ from, to, count }) => (
              <tr key={JSON.stringify([from, to])}>
                <td>{joined(from, 'and')}</td>
                <td>{to.length === 0 ? 'no folder: discarded, rejected, or only redirected' : joined(to, 'and')}</td>
                <td className={classes.number}>
                  <Link href={listPath(auditId, { ...scope, from: [...from], to: [...to] })}>
                    {formatPart(count, total)}
                  </Link>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

const listPath = (auditId: string, selection: RefiledSelection): string =>
  `/audits/${auditId}/mail?refiled=${encodeURIComponent(JSON.stringify(selection))}`;

const WHOLE_CHAIN = '';

/** What is applied to which mail. */
function Scope({ auditId, scope, rules }: { auditId: string; scope: RefileScope; rules: RefilePlan['rules'] }) {
  const router = useRouter();
  const goTo = ({ rule, mail }: RefileScope) =>
    router.push(`/audits/${auditId}/refile?${new URLSearchParams({ ...(rule && { rule }), mail })}`);
  return (
    <div className={classes.scope}>
      <Select
        label="What is applied"
        data={[
          { value: WHOLE_CHAIN, label: 'The whole chain' },
          ...rules.map(({ id, name }) => ({ value: id, label: name })),
        ]}
        value={scope.rule ?? WHOLE_CHAIN}
        onChange={(rule) => goTo({ rule: rule || undefined, mail: scope.mail })}
        allowDeselect={false}
        searchable
        w={320}
      />
      <Select
        label="To which mail"
        data={[
          { value: 'all', label: 'All stored mail' },
          { value: 'inbox', label: 'The inbox alone' },
        ]}
        value={scope.mail}
        onChange={(mail) => goTo({ ...scope, mail: mail === 'inbox' ? mail : 'all' })}
        allowDeselect={false}
        w={200}
      />
    </div>
  );
}
