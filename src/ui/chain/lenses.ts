import type { ChainView, Rung } from '../../server/chain/view';

/** The data of a rung that lenses use. */
type Seen = Pick<Rung, 'place' | 'name' | 'sentence' | 'targets' | 'sender'> & {
  readonly counts?: Pick<NonNullable<Rung['counts']>, 'fired'> | null;
  readonly findings: readonly Pick<Rung['findings'][number], 'kind'>[];
};

interface Ladder<R> {
  readonly destinations: readonly Pick<ChainView['destinations'][number], 'key' | 'label'>[];
  readonly rungs: readonly R[];
}

/** Orders in which rules can be shown; the running order does not change. */
export const LENSES = [
  { value: 'order', label: 'in the order they run' },
  { value: 'name', label: 'name' },
  { value: 'destination', label: 'destination' },
  { value: 'sender', label: 'sender' },
  { value: 'finding', label: 'findings' },
  { value: 'taken', label: 'mail acted on' },
] as const;

export type Lens = (typeof LENSES)[number]['value'];

/** Sort keys of a rung; ties stay in running order. */
const SORTS: Readonly<Record<Exclude<Lens, 'order'>, (rung: Seen, view: Ladder<Seen>) => string | number>> = {
  name: (rung) => rung.name.toLocaleLowerCase('en'),
  destination: (rung, view) =>
    view.destinations.find(({ key }) => rung.targets.includes(key))?.label.toLocaleLowerCase('en') ?? '\uffff',
  // By domain first, so that addresses of one domain are together.
  sender: (rung) => (rung.sender === '' ? '\uffff' : rung.sender.split('@').reverse().join(' ')),
  finding: (rung) => -gravity(rung),
  taken: (rung) => -(rung.counts?.fired ?? 0),
};

/** Findings other than overlaps. */
const gravity = (rung: Seen): number => rung.findings.filter(({ kind }) => kind !== 'overlap').length;

/** The rungs in the order of a lens, filtered by name, sentence or sender. */
export function through<R extends Seen>(view: Ladder<R>, lens: Lens, words: string): readonly R[] {
  const sought = words.trim().toLocaleLowerCase('en');
  const found =
    sought === ''
      ? view.rungs
      : view.rungs.filter(({ name, sentence }) => `${name} ${sentence}`.toLocaleLowerCase('en').includes(sought));
  if (lens === 'order') return found;
  const sort = SORTS[lens];
  return [...found].sort((a, b) => {
    const [first, second] = [sort(a, view), sort(b, view)];
    return first < second ? -1 : first > second ? 1 : a.place - b.place;
  });
}
