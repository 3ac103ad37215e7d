import { type Edit, moveBefore } from '../../core/rules/edit';
import type { Chain } from '../../core/rules/rule';
import type { ChainView } from '../../server/views/chain';

/** The move of a rule to directly before another; only places and links of the chain matter for it. */
export function moveEdit(view: ChainView, id: string, before: string | null): Edit | null {
  const entries = view.rungs.map(
    ({ id: rungId, kind, link }) => ({ id: rungId, kind, link }) as unknown as Chain['entries'][number],
  );
  return moveBefore({ entries, closing: '' }, id, before);
}
