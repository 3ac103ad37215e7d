import { partsOf } from '../../../mail/message';
import { decodedText, type MimePart, readableText, walkParts } from '../../../mail/parts';
import { type Run, ScriptError, writeVariable } from '../../interpret/run';
import { action, type Extension } from './extension';
import { MODIFIERS, modifiedBy } from './variables';

const NAME = { name: 'name', tags: [{ tag: 'name', value: { name: 'name', type: 'string' } }] } as const;

/**
 * RFC 5703; the :mime tags are defined with their tests. Replaced and enclosed messages are not rebuilt, since fates do
 * not depend on them.
 */
export const mime: Extension = {
  capabilities: ['mime', 'foreverypart', 'replace', 'enclose', 'extracttext'],
  commands: [
    {
      ...action,
      role: 'control',
      name: 'foreverypart',
      about: 'Runs its block once for each MIME part.',
      capability: 'foreverypart',
      section: 'RFC 5703 section 3',
      tagGroups: [NAME],
      positional: [],
      block: true,
      compile: (bound, { body }) => {
        const label = bound.has('name') ? bound.string('name') : null;
        return (run) => forEveryPart(run, label, body);
      },
    },
    {
      ...action,
      role: 'control',
      name: 'break',
      within: 'foreverypart',
      about: 'Ends the loop over MIME parts.',
      capability: 'foreverypart',
      section: 'RFC 5703 section 3',
      tagGroups: [NAME],
      positional: [],
      compile: (bound) => {
        const label = bound.has('name') ? bound.string('name') : null;
        return (run) => {
          run.signal = { kind: 'break', label };
        };
      },
    },
    {
      ...action,
      name: 'replace',
      about: 'Replaces a MIME part with a text.',
      capability: 'replace',
      section: 'RFC 5703 section 5',
      tagGroups: [
        { name: 'mime', tags: [{ tag: 'mime' }] },
        { name: 'subject', tags: [{ tag: 'subject', value: { name: 'subject', type: 'string' } }] },
        { name: 'from', tags: [{ tag: 'from', value: { name: 'from', type: 'string' } }] },
      ],
      positional: [{ name: 'replacement', type: 'string' }],
      compile: () => () => {},
    },
    {
      ...action,
      name: 'enclose',
      about: 'Encloses the message in a new one.',
      capability: 'enclose',
      section: 'RFC 5703 section 6',
      tagGroups: [
        { name: 'subject', tags: [{ tag: 'subject', value: { name: 'subject', type: 'string' } }] },
        { name: 'headers', tags: [{ tag: 'headers', value: { name: 'headers', type: 'string-list' } }] },
      ],
      positional: [{ name: 'text', type: 'string' }],
      compile: () => () => {},
    },
    {
      ...action,
      name: 'extracttext',
      about: 'Sets a variable to the text of a MIME part.',
      capability: 'extracttext',
      section: 'RFC 5703 section 7',
      touches: () => ['sets variables'],
      tagGroups: [...MODIFIERS, { name: 'first', tags: [{ tag: 'first', value: { name: 'first', type: 'number' } }] }],
      positional: [{ name: 'varname', type: 'string' }],
      compile: (bound) => {
        const first = bound.has('first') ? bound.number('first') : Number.POSITIVE_INFINITY;
        const modified = modifiedBy(bound);
        const name = bound.string('varname');
        return (run) => {
          if (!run.part) throw new ScriptError('extracttext outside of foreverypart (RFC 5703 section 7)');
          const text = Array.from(textOf(run.part)).slice(0, first).join('');
          writeVariable(name, modified(text), run);
        };
      },
    },
  ],
};

const textOf = (part: MimePart): string =>
  part.type.startsWith('text/') ? readableText(part) : part.children.length > 0 ? '' : decodedText(part);

/** All parts in message order; within a nested loop, those of the current part. */
function forEveryPart(run: Run, label: string | null, body: (run: Run) => void): void {
  const outer = run.part;
  const parts = outer ? [...walkParts(outer)].slice(1) : [...walkParts(partsOf(run.message))];
  for (const part of parts) {
    run.part = part;
    body(run);
    if (!run.signal) continue;
    if (run.signal.kind !== 'break') break;
    // Without a label the innermost loop ends, else the one of that name.
    if (run.signal.label === null || run.signal.label === label) run.signal = null;
    break;
  }
  run.part = outer;
}
