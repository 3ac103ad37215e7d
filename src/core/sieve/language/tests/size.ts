import type { TestDefinition } from '../definition';

/** RFC 5228 section 5.9: both comparisons are strict. */
export const size: TestDefinition = {
  kind: 'test',
  name: 'size',
  about: 'Compares the size of the message, in octets, with a limit.',
  capability: null,
  section: 'RFC 5228 section 5.9',
  tagGroups: [{ name: 'relation', tags: [{ tag: 'over' }, { tag: 'under' }], required: true }],
  positional: [{ name: 'limit', type: 'number' }],
  subtests: 'none',
  compile: (bound) => {
    const limit = bound.number('limit');
    const over = bound.tag('relation') === 'over';
    return ({ message }, report) => {
      const holds = over ? message.size > limit : message.size < limit;
      if (holds) {
        report?.({ where: { kind: 'size' }, value: String(message.size), key: String(limit), spans: [] });
      }
      return holds;
    };
  },
};
