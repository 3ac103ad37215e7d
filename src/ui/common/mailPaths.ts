import type { Edit } from '../../core/rules/edit';
import type { TestTree } from '../../core/rules/rule';

/** Longer addresses are not taken by all servers and browsers (common practice). */
const LONGEST = 6000;

/** Where the messages are listed for which tests hold; null where the tests are too long for an address. */
export const heldPath = (auditId: string, tests: TestTree): string | null =>
  pathOf(auditId, { tests: JSON.stringify(tests) });

/** Of the messages that a change concerns: those that go from one place to another, or what a rule does with them by it. */
export type OfTrial =
  | { readonly was: string; readonly becomes: string; readonly flags: '1' }
  | { readonly written: string; readonly does: 'fired' | 'untaken' | 'gained' | 'lost' };

/** Where the messages are listed that a change would move which is not made yet; null where it is too long for an address. */
export const trialPath = (auditId: string, edits: readonly Edit[], of?: OfTrial): string | null =>
  pathOf(auditId, { trying: JSON.stringify(edits), ...of });

function pathOf(auditId: string, query: Readonly<Record<string, string>>): string | null {
  const path = `/audits/${auditId}/mail?${new URLSearchParams(query)}`;
  return path.length > LONGEST ? null : path;
}
