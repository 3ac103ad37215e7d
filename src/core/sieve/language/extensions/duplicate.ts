import { fieldsNamed } from '../../../mail/message';
import type { Run } from '../../interpret/run';
import { isWithin } from '../../interpret/world';
import { type Extension, test } from './extension';

/** RFC 7352; a week if no time is given. */
export const duplicate: Extension = {
  capabilities: ['duplicate'],
  tests: [
    {
      ...test,
      name: 'duplicate',
      about: 'True when a message with the same identity arrived earlier.',
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
      compile: (bound) => {
        const handle = bound.has('handle') ? bound.text('handle') : () => '';
        const header = bound.has('header') ? bound.text('header') : () => 'message-id';
        const unique = bound.has('uniqueid') ? bound.text('uniqueid') : null;
        const seconds = bound.has('seconds') ? bound.number('seconds') : 7 * 86_400;
        const prolongs = bound.tag('last') !== null;
        return (run) => {
          const identity = unique ? unique(run) : fieldsNamed(run.message, header(run))[0]?.value;
          // Without the header, duplicates cannot be recognised (section 3.1).
          if (identity === undefined) return false;
          const key = `duplicate ${JSON.stringify([handle(run), identity])}`;
          const { memory, now } = run.world;
          const seen = isWithin(notedBefore(run, key), now, seconds);
          if (!seen || prolongs) memory.note(key, now);
          return seen;
        };
      },
    },
  ],
};

const before = new WeakMap<Run, Map<string, number | null>>();

/** A run does not see its own notes: all tests of one identity get the same answer (section 3). */
function notedBefore(run: Run, key: string): number | null {
  const known = before.get(run) ?? new Map<string, number | null>();
  before.set(run, known);
  const noted = known.has(key) ? (known.get(key) ?? null) : run.world.memory.noted(key);
  known.set(key, noted);
  return noted;
}
