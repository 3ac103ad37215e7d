import Link from 'next/link';
import type { Learned } from '../../core/repair/learned';
import { formatNumber, formatPart } from '../common/format';
import { Head, Onward } from '../common/Head';
import { Notice } from '../common/Notice';
import classes from './Examples.module.css';
import { newRulePath } from './newRulePath';

/** Rules that the user's own filing suggests: mail that is in a folder into which no rule puts it. */
export function FromFiling({ auditId, view }: { auditId: string; view: readonly Learned[] | null }) {
  if (!view) {
    return (
      <Notice title="The chain is being simulated">
        <p>Suggestions from your own filing appear once the simulation ends.</p>
      </Notice>
    );
  }
  return (
    <div className={classes.filing}>
      <Head action={<Onward href={`/audits/${auditId}/learned`}>Learn a whole set of rules</Onward>}>
        {view.length === 0
          ? 'Your own filing suggests no new rules'
          : `Your own filing suggests ${formatNumber(view.length)} ${view.length === 1 ? 'rule' : 'rules'}`}
      </Head>
      <p className={classes.soft}>
        {view.length === 0 && 'Suggestions need at least a few messages of one sender, domain or list in one folder. '}
        Mail in a folder that no rule files into was filed by hand. To start from single messages instead, mark them in{' '}
        <Link href={`/audits/${auditId}/mail`}>Mail</Link>. A whole set of rules can be learned from all that you filed.
      </p>
      {view.length > 0 && (
        <table className={classes.learned}>
          <thead>
            <tr>
              <th>Mail</th>
              <th>is in</th>
              <th title="Of the mail that such a test matches, the part that is in this folder">is right for</th>
              <th title="Of the mail that is there and that no rule files there, the part that such a test matches">
                covers
              </th>
              <th>as a rule</th>
            </tr>
          </thead>
          <tbody>
            {view.map((one) => (
              <tr key={one.folder}>
                <td>{one.words}</td>
                <td>
                  <Link href={`/audits/${auditId}/mail?folder=${encodeURIComponent(one.folder)}`}>{one.folder}</Link>
                </td>
                <td>{formatPart(one.right, one.caught)}</td>
                <td>{formatPart(one.there, one.lying)}</td>
                <td>
                  <Link href={newRulePath(auditId, { tests: one.tests, folder: one.folder, name: one.folder })}>
                    preview
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
