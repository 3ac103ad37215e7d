import type { LeafTest } from '../../../core/rules/rule';
import type { RuleOffers } from '../../../server/chain/rule-view';
import { formatNumber } from '../../common/format';
import { TextButton } from '../../common/TextButton';
import { Choice } from '../fields';
import { Keys } from '../Keys';
import classes from '../RuleDesk.module.css';

interface KeysOrListProps {
  readonly label: string;
  readonly test: Extract<LeafTest, { test: 'address' | 'envelope' | 'header' }>;
  readonly offers: readonly string[];
  readonly named: RuleOffers['named'];
  readonly put: (test: LeafTest) => void;
}

/** Keys of its own, or those of a named list, which change with it. */
export function KeysOrList({ label, test, offers, named, put }: KeysOrListProps) {
  const { list, ...own } = test;
  const used = named.find(({ id }) => id === list);
  const fits = named.filter(({ keys }) => keys.length > 0);
  if (used) {
    return (
      <span className={classes.fixed}>
        anyone in the list “{used.name}” ({formatNumber(used.keys.length)}){' '}
        <TextButton onClick={() => put({ ...own, keys: [...used.keys] })}>write them here instead</TextButton>
      </span>
    );
  }
  return (
    <>
      <Keys label={label} keys={test.keys} offers={offers} onChange={(keys) => put({ ...own, keys })} />
      {fits.length > 0 && test.keys.length === 0 && (
        <Choice
          label="Or a list"
          value=""
          choices={[{ value: '', label: 'or a list' }, ...fits.map(({ id, name }) => ({ value: id, label: name }))]}
          onChange={(id) => {
            const chosen = fits.find((one) => one.id === id);
            if (chosen) put({ ...own, keys: chosen.keys, list: chosen.id });
          }}
        />
      )}
    </>
  );
}
