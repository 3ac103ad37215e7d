import type { TestDefinition } from '../definition';
import { fieldsOf } from '../headers';
import { examineHeaderNames, MIME } from '../shared';

/** RFC 5228 section 5.5: every one of the headers is there. */
export const exists: TestDefinition = {
  kind: 'test',
  name: 'exists',
  about: 'Holds when the message has all of the header fields.',
  capability: null,
  section: 'RFC 5228 section 5.5',
  tagGroups: [...MIME],
  positional: [{ name: 'header-list', type: 'string-list' }],
  subtests: 'none',
  examine: examineHeaderNames,
  compile: (bound) => {
    const names = bound.texts('header-list');
    const fields = fieldsOf(bound, names);
    return (run, report) => {
      const found = fields(run);
      const places = names(run).map((name) => {
        return found.find(({ field }) => field.name.toLowerCase() === name.toLowerCase());
      });
      if (places.includes(undefined)) return false;
      for (const place of places) {
        if (!place || place.index < 0) continue;
        const { name, value } = place.field;
        report?.({ where: { kind: 'header', name, field: place.index }, value, key: name, spans: [] });
      }
      return true;
    };
  },
};
