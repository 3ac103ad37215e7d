import type { TestDefinition } from '../definition';

const plain = { kind: 'test', capability: null, tagGroups: [], positional: [] } as const;

/** RFC 5228 section 5.2. No more tests are run than needed, from left to right, since each may set variables (RFC 5229 section 3.2). */
export const allof: TestDefinition = {
  ...plain,
  name: 'allof',
  about: 'Holds when all of its tests hold.',
  section: 'RFC 5228 section 5.2',
  subtests: 'many',
  compile: (_bound, tests) => (run) => tests.every((test) => test(run)),
};

/** RFC 5228 section 5.3. */
export const anyof: TestDefinition = {
  ...plain,
  name: 'anyof',
  about: 'Holds when at least one of its tests holds.',
  section: 'RFC 5228 section 5.3',
  subtests: 'many',
  compile: (_bound, tests) => (run) => tests.some((test) => test(run)),
};

/** RFC 5228 section 5.8. */
export const not: TestDefinition = {
  ...plain,
  name: 'not',
  about: 'Holds when its test does not.',
  section: 'RFC 5228 section 5.8',
  subtests: 'one',
  compile: (_bound, tests) => (run) => !tests[0]?.(run),
};

/** RFC 5228 section 5.10. */
export const always: TestDefinition = {
  ...plain,
  name: 'true',
  about: 'Always holds.',
  section: 'RFC 5228 section 5.10',
  subtests: 'none',
  compile: () => () => true,
};

/** RFC 5228 section 5.6. */
export const never: TestDefinition = {
  ...plain,
  name: 'false',
  about: 'Never holds.',
  section: 'RFC 5228 section 5.6',
  subtests: 'none',
  compile: () => () => false,
};
