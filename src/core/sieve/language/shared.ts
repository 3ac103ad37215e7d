import { HEADER_NAME } from '../../mail/headers';
import { comparatorNames, DEFAULT_COMPARATOR, maybeComparator } from '../match/comparators';
import { compileRegex, RegexFault } from '../match/regex';
import type { Bound } from './bind';
import type { Parameter, Problem, TagGroup } from './definition';
import { nearest } from './nearest';

/** Argument groups shared by several tests and actions, including what extensions add to them. */
const RELATION: Parameter = { name: 'relation', type: 'string' };

export const MATCH_TYPE: TagGroup = {
  name: 'match-type',
  tags: [
    { tag: 'is' },
    { tag: 'contains' },
    { tag: 'matches' },
    { tag: 'regex', capability: 'regex' },
    { tag: 'value', capability: 'relational', value: RELATION },
    { tag: 'count', capability: 'relational', value: RELATION },
    { tag: 'list', capability: 'extlists' },
  ],
};

export const COMPARATOR: TagGroup = {
  name: 'comparator',
  tags: [{ tag: 'comparator', value: { name: 'comparator', type: 'string' } }],
};

export const ADDRESS_PART: TagGroup = {
  name: 'address-part',
  tags: [
    { tag: 'localpart' },
    { tag: 'domain' },
    { tag: 'all' },
    { tag: 'user', capability: 'subaddress' },
    { tag: 'detail', capability: 'subaddress' },
  ],
};

/** RFC 5260 section 6. */
export const INDEX: readonly TagGroup[] = [
  { name: 'index', tags: [{ tag: 'index', capability: 'index', value: { name: 'index', type: 'number' } }] },
  { name: 'last', tags: [{ tag: 'last', capability: 'index', beside: 'index' }] },
];

/** RFC 5703 section 4. */
export const MIME: readonly TagGroup[] = [
  { name: 'mime', tags: [{ tag: 'mime', capability: 'mime' }] },
  { name: 'anychild', tags: [{ tag: 'anychild', capability: 'mime', beside: 'mime' }] },
];

export const COPY: TagGroup = { name: 'copy', tags: [{ tag: 'copy', capability: 'copy' }] };

export const FLAGS: TagGroup = {
  name: 'flags',
  tags: [{ tag: 'flags', capability: 'imap4flags', value: { name: 'flags', type: 'string-list' } }],
};

/** RFC 5490 section 3.2. */
export const CREATE: TagGroup = { name: 'create', tags: [{ tag: 'create', capability: 'mailbox' }] };

/** RFC 8579 section 4.1. */
export const SPECIAL_USE: TagGroup = {
  name: 'specialuse',
  tags: [{ tag: 'specialuse', capability: 'special-use', value: { name: 'specialuse', type: 'string' } }],
};

/** RFC 8580: filing a copy of a message that a script sends. */
export const FCC: readonly TagGroup[] = [
  { name: 'fcc', tags: [{ tag: 'fcc', capability: 'fcc', value: { name: 'fcc', type: 'string' } }] },
  ...[FLAGS, CREATE, SPECIAL_USE].map(besideFcc),
];

function besideFcc(group: TagGroup): TagGroup {
  return { ...group, tags: group.tags.map((tag) => ({ ...tag, beside: 'fcc' })) };
}

const RELATIONS = /^(gt|ge|lt|le|eq|ne)$/i;

/** Checks comparator, relation and regular expressions of a comparing test. */
export function examineMatching(bound: Bound, problem: Problem, keys: string): void {
  const matchType = bound.tag('match-type') ?? 'is';
  if (bound.has('comparator')) examineComparator(bound, problem, matchType);
  if (bound.has('relation') && !RELATIONS.test(bound.string('relation'))) {
    const found = bound.string('relation');
    problem('bad-value', bound.argument('relation'), {
      found,
      expected: 'gt, ge, lt, le, eq or ne (RFC 5231 section 4)',
    });
  }
  if (matchType !== 'regex' || !bound.has(keys)) return;
  for (const item of bound.items(keys)) {
    if (bound.varies(item.value)) continue;
    try {
      compileRegex(item.value, 'none');
    } catch (error) {
      if (!(error instanceof RegexFault)) throw error;
      problem('bad-regex', item, { reason: error.message });
    }
  }
}

function examineComparator(bound: Bound, problem: Problem, matchType: string): void {
  const name = bound.string('comparator');
  const comparator = maybeComparator(name);
  const at = bound.argument('comparator');
  if (!comparator) problem('unknown-comparator', at, { name, nearest: nearest(name, comparatorNames()) });
  else if (!comparator.substring && /^(contains|matches|regex)$/.test(matchType)) {
    problem('comparator-lacks', at, { name, tag: matchType });
  }
}

export const comparatorOf = (bound: Bound): string =>
  bound.has('comparator') ? bound.string('comparator') : DEFAULT_COMPARATOR;

export function examineHeaderNames(bound: Bound, problem: Problem): void {
  for (const item of bound.items('header-list')) {
    if (bound.varies(item.value) || HEADER_NAME.test(item.value)) continue;
    problem('bad-header-name', item, { name: item.value });
  }
}
