import type { TestTree } from '../../core/rules/rule';

interface Begun {
  readonly tests: TestTree;
  /** Null where it is not said what the rule does. */
  readonly folder: string | null;
  readonly name: string;
}

/** Where a new rule is written that begins with these tests. */
export function newRulePath(auditId: string, { tests, folder, name }: Begun): string {
  const parts = { tests: JSON.stringify(tests), name, ...(folder === null ? {} : { folder }) };
  return `/audits/${auditId}/rule?${new URLSearchParams(parts)}`;
}
