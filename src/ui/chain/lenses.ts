import type { ChainView, Rung } from '../../server/chain/view';

/** What of a rung the lenses look at. */
type Seen = Pick<Rung, 'place' | 'name' | 'sentence' | 'targets' | 'sender'> & {
  readonly counts?: Pick<NonNullable<Rung['counts']>, 'fired'> | null;
  readonly findings: readonly Pick<Rung['findings'][number], 'kind'>[];
};

interface Ladder<R> {
  readonly destinations: readonly Pick<ChainView['destinations'][number], 'key' | 'label'>[];
  readonly rungs: readonly R[];
}

/** Ways to look at the rules; the order in which they run stays as it is. */
export const LENSES = [
  { value: 'order', label: 'as they run' },
  { value: 'name', label: 'name' },
  { value: 'destination', label: 'destination' },
  { value: 'sender', label: 'sender' },
  { value: 'finding', label: 'findings' },
  { value: 'taken', label: 'mail taken' },
] as const;

export type Lens = (typeof LENSES)[number]['value'];

/** What rungs are sorted by, from the first; within it the order in which they run. */
const SORTS: Readonly<Record<Exclude<Lens, 'order'>, (rung: Seen, view: Ladder<Seen>) => string | number>> = {
  name: (rung) => rung.name.toLocaleLowerCase('en'),
  destination: (rung, view) =>
    view.destinations.find(({ key }) => rung.targets.includes(key))?.label.toLocaleLowerCase('en') ?? '\uffff',
  // By the domain first, so that the addresses of one stand together.
  sender: (rung) => (rung.sender === '' ? '\uffff' : rung.sender.split('@').reverse().join(' ')),
  finding: (rung) => -gravity(rung),
  taken: (rung) => -(rung.counts?.fired ?? 0),
};

/** Findings beside mere overlaps. */
const gravity = (rung: Seen): number => rung.findings.filter(({ kind }) => kind !== 'overlap').length;

/** The rungs as a lens shows them, of those whose name, sentence or sender has the words. */
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
