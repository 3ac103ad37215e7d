import { isAscii } from '../../../text/fold';
import { hasReferences, writeVariable } from '../../interpret/run';
import type { Bound } from '../bind';
import type { TagGroup } from '../definition';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';
import { action, type Extension, test } from './extension';

const NAME = /^[A-Za-z_][A-Za-z0-9_]*(\.[A-Za-z_][A-Za-z0-9_]*)*$/;

/** At most one of each precedence; the higher one acts first (RFC 5229 section 4.1). */
export const MODIFIERS: readonly TagGroup[] = [
  { name: '40', tags: [{ tag: 'lower' }, { tag: 'upper' }] },
  { name: '30', tags: [{ tag: 'lowerfirst' }, { tag: 'upperfirst' }] },
  { name: '20', tags: [{ tag: 'quotewildcard' }] },
  { name: '15', tags: [{ tag: 'quoteregex', capability: 'regex' }] },
  { name: '14', tags: [{ tag: 'encodeurl', capability: 'enotify' }] },
  { name: '10', tags: [{ tag: 'length' }] },
];

/** Applies the modifiers of a command to a value. */
export function modifiedBy(bound: Bound): (value: string) => string {
  const given = MODIFIERS.flatMap(({ name }) => bound.tag(name) ?? []);
  return (value) => given.reduce(modify, value);
}

/** RFC 5229. */
export const variables: Extension = {
  capabilities: ['variables'],
  commands: [
    {
      ...action,
      name: 'set',
      about: 'Sets a variable.',
      capability: 'variables',
      section: 'RFC 5229 section 4',
      tagGroups: MODIFIERS,
      touches: () => ['sets variables'],
      positional: [
        { name: 'name', type: 'string' },
        { name: 'value', type: 'string' },
      ],
      examine: (bound, problem) => {
        const found = bound.string('name');
        if (!NAME.test(found))
          problem('bad-value', bound.argument('name'), {
            found,
            expected: 'the name of a variable (RFC 5229 section 3)',
          });
      },
      compile: (bound) => {
        const value = bound.text('value');
        const name = bound.string('name');
        const modified = modifiedBy(bound);
        return (run) => writeVariable(name, modified(value(run)), run);
      },
    },
  ],
  tests: [
    {
      ...test,
      name: 'string',
      about: 'Compares strings, with their variables expanded, with keys.',
      capability: 'variables',
      section: 'RFC 5229 section 5',
      touches: (bound) => (bound.strings('source').some(hasReferences) ? ['reads variables'] : []),
      tagGroups: [COMPARATOR, MATCH_TYPE],
      positional: [
        { name: 'source', type: 'string-list' },
        { name: 'key-list', type: 'string-list' },
      ],
      examine: (bound, problem) => examineMatching(bound, problem, 'key-list'),
      compile: (bound) => {
        const sources = bound.texts('source');
        const matching = matchingOf(bound, 'key-list');
        // :count counts the strings that are not empty (section 5).
        const counts = bound.tag('match-type') === 'count';
        return (run, report) => {
          const values = sources(run).filter((value) => !counts || value !== '');
          const candidates = values.map((value): Candidate => ({ value, where: { kind: 'other', what: 'string' } }));
          return matching(run, candidates, report);
        };
      },
    },
  ],
};

/** Only letters of US-ASCII are certain to be changed (section 4.1). */
function modify(value: string, modifier: string): string {
  const first = value.slice(0, 1);
  switch (modifier) {
    case 'lower':
      return value.replace(/[A-Z]/g, (letter) => letter.toLowerCase());
    case 'upper':
      return value.replace(/[a-z]/g, (letter) => letter.toUpperCase());
    case 'lowerfirst':
      return (isAscii(first) ? first.toLowerCase() : first) + value.slice(1);
    case 'upperfirst':
      return (isAscii(first) ? first.toUpperCase() : first) + value.slice(1);
    case 'quotewildcard':
      return value.replace(/[*?\\]/g, '\\$&');
    case 'quoteregex':
      return value.replace(/[.^$*+?()[\]{}|\\]/g, '\\$&');
    case 'encodeurl':
      return encodeURIComponent(value).replace(
        /[!'()*]/g,
        (mark) => `%${mark.charCodeAt(0).toString(16).toUpperCase()}`,
      );
    case 'length':
      return String(Array.from(value).length);
    default:
      throw new Error(`unknown modifier ${modifier}`);
  }
}
