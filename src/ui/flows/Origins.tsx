import type { StreamsView } from '../../server/chain/flows-view';
import { originsAnswer } from '../../server/http/answers';
import { useAnswer } from '../common/answers';
import { formatPart } from '../common/format';
import { Bars } from './Bars';
import classes from './Flows.module.css';
import { Months } from './Months';

interface OriginsProps {
  readonly auditId: string;
  readonly view: StreamsView;
  readonly destination: string;
  readonly label: string;
}

/** Where the mail of one place comes from: by rule, by the sender's domain, by month. */
export function Origins({ auditId, view, destination, label }: OriginsProps) {
  const path = `/api/audits/${auditId}/origins?destination=${encodeURIComponent(destination)}`;
  const { answer: origins } = useAnswer(originsAnswer, path, view);
  const links = view.links.filter((link) => link.destination === destination);
  const count = view.destinations.find(({ key }) => key === destination)?.count ?? 0;
  const fate = `fate=${encodeURIComponent(destination)}`;
  return (
    <section aria-label={`Where the mail of ${label} comes from`}>
      <h2 className={classes.heading}>
        {label}: {formatPart(count, view.total)} messages
      </h2>
      <div className={classes.overTime}>
        {origins && <Months months={origins.months} label={`Messages a month that end in ${label}`} />}
      </div>
      <div className={classes.lists}>
        <Bars
          title="by the rule that puts it there"
          whole={count}
          rows={links.map((link) => ({
            key: link.rule ?? link.name,
            label: link.name,
            count: link.count,
            href: `/audits/${auditId}/mail?${fate}${link.rule === null ? '&untouched=1' : `&rule=${link.rule}&part=fired`}`,
          }))}
        />
        <Bars
          title="by the sender’s domain"
          whole={count}
          rows={(origins?.domains ?? []).map(({ domain, count: from }) => ({
            key: domain,
            label: domain || '(no address)',
            count: from,
            href: `/audits/${auditId}/mail?${fate}&from=${encodeURIComponent(domain)}`,
          }))}
        />
      </div>
    </section>
  );
}
