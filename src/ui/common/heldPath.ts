import type { TestTree } from '../../core/rules/rule';

/** Longer addresses are not taken by all servers and browsers (common practice). */
const LONGEST = 6000;

/** Where the messages are listed for which tests hold; null where the tests are too long for an address. */
export function heldPath(auditId: string, tests: TestTree): string | null {
  const path = `/audits/${auditId}/mail?${new URLSearchParams({ tests: JSON.stringify(tests) })}`;
  return path.length > LONGEST ? null : path;
}
