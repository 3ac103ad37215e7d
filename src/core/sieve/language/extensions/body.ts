import { decodeText } from '../../../mail/charset';
import { partsOf } from '../../../mail/message';
import { decodedText, type MimePart, readableText, walkParts } from '../../../mail/parts';
import { textOfOctets } from '../../../text/fold';
import type { Run } from '../../interpret/run';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';
import { type Extension, test } from './extension';

/** RFC 5173. It never sets match variables (section 6). */
export const body: Extension = {
  capabilities: ['body'],
  tests: [
    {
      ...test,
      name: 'body',
      about: 'Compares the body of the message, or some of its parts, with keys.',
      capability: 'body',
      section: 'RFC 5173 section 4',
      tagGroups: [
        COMPARATOR,
        MATCH_TYPE,
        {
          name: 'transform',
          tags: [{ tag: 'raw' }, { tag: 'text' }, { tag: 'content', value: { name: 'content', type: 'string-list' } }],
        },
      ],
      positional: [{ name: 'key-list', type: 'string-list' }],
      examine: (bound, problem) => examineMatching(bound, problem, 'key-list'),
      compile: (bound) => {
        const matching = matchingOf(bound, 'key-list', { captures: false });
        const transform = bound.tag('transform') ?? 'text';
        const types = bound.has('content') ? bound.texts('content') : () => [];
        return (run, report) => matching(run, candidates(run, transform, types(run)), report);
      },
    },
  ],
};

function candidates({ message }: Run, transform: string, types: readonly string[]): Candidate[] {
  // Section 5.1 compares octets: octets that are not UTF-8 stay unchanged.
  if (transform === 'raw') return [{ value: textOfOctets(message.body), where: { kind: 'body', part: null } }];
  return [...walkParts(partsOf(message))].flatMap((part, place) => {
    const isWanted = transform === 'text' ? part.type.startsWith('text/') : types.some((type) => isOfType(part, type));
    if (!isWanted) return [];
    const values = transform === 'text' ? [readableText(part)] : contentOf(part);
    return values.map((value): Candidate => ({ value, where: { kind: 'body', part: place } }));
  });
}

/** Section 5.2: "" is every type, "text" all its subtypes, anything else one type; malformed ones match nothing. */
function isOfType({ type }: MimePart, wanted: string): boolean {
  const lower = wanted.toLowerCase();
  if (lower === '') return true;
  if (lower.startsWith('/') || lower.endsWith('/') || lower.split('/').length > 2) return false;
  return lower.includes('/') ? type === lower : type.startsWith(`${lower}/`);
}

/** Section 5.2: for a multipart its prologue and epilogue, for a message its header, for any other part its content. */
function contentOf(part: MimePart): string[] {
  if (part.type.startsWith('multipart/')) return [decodeText(part.prologue), decodeText(part.epilogue)];
  const inner = part.children[0];
  if (inner) return [inner.fields.map(({ name, value }) => `${name}: ${value}`).join('\r\n')];
  return [decodedText(part)];
}
