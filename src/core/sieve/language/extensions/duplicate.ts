import { fieldsNamed } from '../../../mail/message';
import { type Extension, test } from './extension';

/** RFC 7352; a week where no time is given. */
export const duplicate: Extension = {
  capabilities: ['duplicate'],
  tests: [
    {
      ...test,
      name: 'duplicate',
      about: 'Holds when a message of the same identity came before.',
      capability: 'duplicate',
      section: 'RFC 7352 section 3',
      tagGroups: [
        { name: 'handle', tags: [{ tag: 'handle', value: { name: 'handle', type: 'string' } }] },
        {
          name: 'identity',
          tags: [
            { tag: 'header', value: { name: 'header', type: 'string' } },
            { tag: 'uniqueid', value: { name: 'uniqueid', type: 'string' } },
          ],
        },
        { name: 'seconds', tags: [{ tag: 'seconds', value: { name: 'seconds', type: 'number' } }] },
        { name: 'last', tags: [{ tag: 'last' }] },
      ],
      positional: [],
      touches: () => ['memory'],
      compile: (bound) => {
        const handle = bound.has('handle') ? bound.text('handle') : () => '';
        const header = bound.has('header') ? bound.text('header') : () => 'message-id';
        const unique = bound.has('uniqueid') ? bound.text('uniqueid') : null;
        const seconds = bound.has('seconds') ? bound.number('seconds') : 7 * 86_400;
        const note = bound.tag('last') === null ? 'when new' : 'always';
        return (run) => {
          const identity = unique ? unique(run) : fieldsNamed(run.message, header(run))[0]?.value;
          // Without the header there is nothing to tell duplicates by (section 3.1).
          if (identity === undefined) return false;
          const key = `duplicate ${JSON.stringify([handle(run), identity])}`;
          return run.world.memory.seen(key, run.world.now, seconds, note);
        };
      },
    },
  ],
};
