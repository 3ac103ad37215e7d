import { containing } from '../../core/text/words';
import type { ChainView, Rung } from '../../server/chain/view';

/** The data of a rung that lenses use. */
type Seen = Pick<Rung, 'place' | 'name' | 'sentence' | 'note' | 'targets' | 'sender'> & {
  readonly counts?: Pick<NonNullable<Rung['counts']>, 'fired'> | null;
  readonly findings: readonly Pick<Rung['findings'][number], 'kind'>[];
};

interface Ladder<R> {
  readonly destinations: readonly Pick<ChainView['destinations'][number], 'key' | 'label'>[];
  readonly rungs: readonly R[];
}

/** Orders in which rules can be shown; the running order does not change. */
export const LENSES = [
  { value: 'order', label: 'running order' },
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

/** Whether the name, the sentence or the note of a rung contains words. */
export function saying(words: string): (rung: Pick<Rung, 'name' | 'sentence' | 'note'>) => boolean {
  const has = containing(words);
  return ({ name, sentence, note }) => has(name, sentence, note);
}

/** The rungs in the order of a lens, filtered by name, sentence or sender. */
export function through<R extends Seen>(view: Ladder<R>, lens: Lens, words: string): readonly R[] {
  const found = words.trim() === '' ? view.rungs : view.rungs.filter(saying(words));
  if (lens === 'order') return found;
  const sort = SORTS[lens];
  return [...found].sort((a, b) => {
    const [first, second] = [sort(a, view), sort(b, view)];
    return first < second ? -1 : first > second ? 1 : a.place - b.place;
  });
}

/** The rung found after or before the selected one, beginning anew at the end. */
export function stepped<R extends Pick<Rung, 'id'>>(
  found: readonly R[],
  shown: readonly R[],
  selected: string | undefined,
  step: 1 | -1,
): R | undefined {
  const here = shown.findIndex(({ id }) => id === selected);
  const places = found.map((rung) => shown.indexOf(rung));
  const next = step > 0 ? places.findIndex((place) => place > here) : places.findLastIndex((place) => place < here);
  return next >= 0 ? found[next] : found.at(step > 0 ? 0 : -1);
}
