import type { TestDefinition } from '../definition';

const plain = { kind: 'test', capability: null, tagGroups: [], positional: [] } as const;

/**
 * RFC 5228 section 5.2. Evaluates from left to right and stops early, since tests may set variables (RFC 5229 section
 * 3.2).
 */
export const allof: TestDefinition = {
  ...plain,
  name: 'allof',
  about: 'True when all of its tests are true.',
  section: 'RFC 5228 section 5.2',
  subtests: 'many',
  compile: (_bound, tests) => (run) => tests.every((test) => test(run)),
};

/** RFC 5228 section 5.3. */
export const anyof: TestDefinition = {
  ...plain,
  name: 'anyof',
  about: 'True when at least one of its tests is true.',
  section: 'RFC 5228 section 5.3',
  subtests: 'many',
  compile: (_bound, tests) => (run) => tests.some((test) => test(run)),
};

/** RFC 5228 section 5.8. */
export const not: TestDefinition = {
  ...plain,
  name: 'not',
  about: 'True when its test is false.',
  section: 'RFC 5228 section 5.8',
  subtests: 'one',
  compile: (_bound, tests) => (run) => !tests[0]?.(run),
};

/** RFC 5228 section 5.10. */
export const always: TestDefinition = {
  ...plain,
  name: 'true',
  about: 'Always true.',
  section: 'RFC 5228 section 5.10',
  subtests: 'none',
  compile: () => () => true,
};

/** RFC 5228 section 5.6. */
export const never: TestDefinition = {
  ...plain,
  name: 'false',
  about: 'Always false.',
  section: 'RFC 5228 section 5.6',
  subtests: 'none',
  compile: () => () => false,
};
