import type { TestTree } from '../../core/rules/rule';

interface Begun {
  readonly tests: TestTree;
  /** Null if the action is open. */
  readonly folder: string | null;
  readonly name: string;
}

/** The address of a new rule with these tests. */
export function newRulePath(auditId: string, { tests, folder, name }: Begun): string {
  const parts = { tests: JSON.stringify(tests), name, ...(folder === null ? {} : { folder }) };
  return `/audits/${auditId}/rule?${new URLSearchParams(parts)}`;
}
