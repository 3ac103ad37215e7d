import type { ChainView, Rung } from '../../server/chain/view';

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
const SORTS: Readonly<Record<Exclude<Lens, 'order'>, (rung: Rung, view: ChainView) => string | number>> = {
  name: (rung) => rung.name.toLocaleLowerCase('en'),
  destination: (rung, view) =>
    view.destinations.find(({ key }) => rung.targets.includes(key))?.label.toLocaleLowerCase('en') ?? '\uffff',
  // By the domain first, so that the addresses of one stand together.
  sender: (rung) => (rung.sender === '' ? '\uffff' : rung.sender.split('@').reverse().join(' ')),
  finding: (rung) => -gravity(rung),
  taken: (rung) => -(rung.counts?.fired ?? 0),
};

/** Findings beside mere overlaps. */
const gravity = (rung: Rung): number => rung.findings.filter(({ kind }) => kind !== 'overlap').length;

/** The rungs as a lens shows them, of those whose name, sentence or sender has the words. */
export function through(view: ChainView, lens: Lens, words: string): readonly Rung[] {
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
