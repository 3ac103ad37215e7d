import { Button } from '@mantine/core';
import Link from 'next/link';
import type { GlimpseView } from '../../server/chain/view';
import { Stream } from '../chain/Stream';
import { formatNumber } from '../common/format';
import { Swatch, TintPatterns } from '../common/tints';
import classes from './Glimpse.module.css';

const HEIGHT = 68;

/** What an audit shows, in one picture: the first rules of the demo, and the mail that each draws off. */
export function Glimpse({ view }: { view: GlimpseView }) {
  const { auditId, rungs, rules, total, left, destinations } = view;
  return (
    <figure className={classes.glimpse}>
      <TintPatterns />
      <figcaption className={classes.caption}>
        <strong>
          {formatNumber(total)} messages pass {formatNumber(rules)} rules.
        </strong>{' '}
        Each rule draws off the mail it acts on. These are the first {formatNumber(rungs.length)} of the sample.
      </figcaption>
      <ol className={classes.rungs}>
        {rungs.map((rung, at) => {
          const place = destinations.find(({ key }) => rung.targets.includes(key));
          return (
            <li key={rung.id} className={classes.rung}>
              <Stream
                rung={rung}
                view={view}
                left={rungs[at + 1]?.counts?.passing ?? left}
                ofChosen={null}
                height={HEIGHT}
              />
              <Link href={`/audits/${auditId}/chain#${encodeURIComponent(rung.id)}`} className={classes.words}>
                <bdi className={classes.name}>{rung.name}</bdi>
                <span className={classes.sentence}>{rung.sentence}</span>
              </Link>
              <span className={classes.taken}>
                <span className={classes.count}>{formatNumber(rung.counts?.fired ?? 0)}</span>
                {place && (
                  <span className={classes.place}>
                    <Swatch destination={place} /> <bdi>{place.label}</bdi>
                  </span>
                )}
              </span>
            </li>
          );
        })}
      </ol>
      <Button component={Link} href={`/audits/${auditId}`} variant="default" size="md">
        Look around with sample data
      </Button>
    </figure>
  );
}
