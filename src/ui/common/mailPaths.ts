import type { Edit } from '../../core/rules/edit';
import type { TestTree } from '../../core/rules/rule';

/** Longer addresses fail with some servers and browsers (common practice). */
const LONGEST = 6000;

/** The address of the list of messages that match tests; null if the tests are too long. */
export const heldPath = (auditId: string, tests: TestTree): string | null =>
  pathOf(auditId, { tests: JSON.stringify(tests) });

/** Of the messages a change affects: those with one pair of destinations, or those a rule newly acts on. */
export type OfTrial =
  | { readonly was: string; readonly becomes: string; readonly flags: '1' }
  | { readonly written: string; readonly does: 'fired' | 'untaken' | 'gained' | 'lost' };

/** The address of the list of messages a previewed change would affect; null if it is too long. */
export const trialPath = (auditId: string, edits: readonly Edit[], of?: OfTrial): string | null =>
  pathOf(auditId, { trying: JSON.stringify(edits), ...of });

function pathOf(auditId: string, query: Readonly<Record<string, string>>): string | null {
  const path = `/audits/${auditId}/mail?${new URLSearchParams(query)}`;
  return path.length > LONGEST ? null : path;
}
