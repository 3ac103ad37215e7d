import { type Edit, moveBefore, type Placed } from '../../core/rules/edit';

/** The data of a rung that moves use. */
interface Rungs {
  readonly rungs: readonly Placed[];
}

/** The move of a rule directly before another. */
export function moveEdit(view: Rungs, id: string, before: string | null): Edit | null {
  return moveBefore({ entries: view.rungs }, id, before);
}

/** The move of a rule directly before or after another. */
export function moveBesideEdit(view: Rungs, id: string, other: string, side: 'before' | 'after'): Edit | null {
  if (side === 'before') return moveEdit(view, id, other);
  const rest = view.rungs.filter((rung) => rung.id !== id);
  return moveEdit(view, id, rest[rest.findIndex((rung) => rung.id === other) + 1]?.id ?? null);
}

/** The move of a rule to the place of another, when it is dropped there. */
export function dropEdit(view: Rungs, id: string, onto: string): Edit | null {
  const placeOf = (wanted: string) => view.rungs.findIndex((rung) => rung.id === wanted);
  return moveBesideEdit(view, id, onto, placeOf(id) < placeOf(onto) ? 'after' : 'before');
}
