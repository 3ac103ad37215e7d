import { decodeWords } from '../../../mail/encodedwords';
import { HEADER_NAME, type HeaderField, trimmed } from '../../../mail/headers';
import { fieldsNamed, type MailMessage } from '../../../mail/message';
import { ScriptError } from '../../interpret/run';
import type { Bound } from '../bind';
import type { Problem } from '../definition';
import { matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';
import { action, type Extension } from './extension';

/** Fields that no script may delete (RFC 5293 section 7). */
const PROTECTED = /^(received|auto-submitted)$/i;

/** RFC 5293: later tests see the edited header (section 6). */
export const editheader: Extension = {
  capabilities: ['editheader'],
  commands: [
    {
      ...action,
      name: 'addheader',
      about: 'Adds a header field, which later tests see.',
      capability: 'editheader',
      section: 'RFC 5293 section 4',
      touches: () => ['edits message'],
      tagGroups: [{ name: 'last', tags: [{ tag: 'last' }] }],
      positional: [
        { name: 'field-name', type: 'string' },
        { name: 'value', type: 'string' },
      ],
      examine: examineName,
      compile: (bound) => {
        const name = bound.text('field-name');
        const value = bound.text('value');
        const last = bound.tag('last') !== null;
        return (run) => {
          if (!HEADER_NAME.test(name(run))) throw new ScriptError('addheader was given an invalid field name');
          // A value cannot break out of its field.
          const text = value(run)
            .replace(/[\r\n\0]+/g, ' ')
            .trim();
          const field: HeaderField = { name: name(run), raw: text, value: trimmed(decodeWords(text)) };
          const { fields } = run.message;
          run.message = { ...run.message, fields: last ? [...fields, field] : [field, ...fields] };
          run.fate.take({ action: 'edit', header: field.name }, run.flags);
        };
      },
    },
    {
      ...action,
      name: 'deleteheader',
      about: 'Deletes header fields, which later tests no longer see.',
      capability: 'editheader',
      section: 'RFC 5293 section 5',
      touches: () => ['edits message'],
      tagGroups: [
        { name: 'index', tags: [{ tag: 'index', value: { name: 'index', type: 'number' } }] },
        { name: 'last', tags: [{ tag: 'last', beside: 'index' }] },
        COMPARATOR,
        MATCH_TYPE,
      ],
      positional: [
        { name: 'field-name', type: 'string' },
        { name: 'value-patterns', type: 'string-list', optional: {} },
      ],
      examine: (bound, problem) => {
        examineName(bound, problem);
        examineMatching(bound, problem, 'value-patterns');
      },
      compile: (bound) => {
        const name = bound.text('field-name');
        const nth = bound.has('index') ? bound.number('index') : null;
        const fromEnd = bound.tag('last') !== null;
        const matching = bound.has('value-patterns') ? matchingOf(bound, 'value-patterns') : () => true;
        return (run) => {
          if (PROTECTED.test(name(run))) return;
          const found = fieldsNamed(run.message, name(run));
          const chosen = nth === null ? found : [found[fromEnd ? found.length - nth : nth - 1]];
          const gone = new Set(
            chosen.filter((field) => {
              const candidate = { value: field?.value ?? '', where: { kind: 'other', what: 'header' } } as const;
              return field && matching(run, [candidate]);
            }),
          );
          if (gone.size === 0) return;
          run.message = withoutFields(run.message, gone);
          run.fate.take({ action: 'edit', header: name(run) }, run.flags);
        };
      },
    },
  ],
};

function withoutFields(message: MailMessage, gone: ReadonlySet<HeaderField | undefined>): MailMessage {
  return { ...message, fields: message.fields.filter((field) => !gone.has(field)) };
}

function examineName(bound: Bound, problem: Problem): void {
  const name = bound.string('field-name');
  if (!name.includes('${') && !HEADER_NAME.test(name))
    problem('bad-header-name', bound.argument('field-name'), { name });
}
