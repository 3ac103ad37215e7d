import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { list, modifier } from './arbitrary';
import { compareRuns, Mailutils } from './mailutils';

/**
 * Our interpreter against Debian's mailutils for the extensions that it has: relational, reject, variables,
 * encoded-character, and editheader as far as a dry run goes (which edits are made; it does not show them to later
 * tests). Left out, beside what `mailutils.test.ts` names, since it departs there or ends with a fault of its own:
 *
 * - `${0}`, and `${n}` beyond the wildcards of the last match, and matches of `address`, which end it (RFC 5229 section 3.2)
 * - `${hex:}`, which holds no octet and is literal (RFC 5228 section 2.4.2.4)
 * - which of several ways a pattern with two wildcards matches: the first takes the least (RFC 5229 section 3.2)
 * - reject beside a delivery, which is an error (RFC 5429 section 2); it does both
 */
const MESSAGES = 50;
const SCRIPTS = 70 * Number(process.env.TIMES ?? 1);
const SEED = Number(process.env.SEED ?? 5429);

const some = (from: readonly string[]) => fc.uniqueArray(fc.constantFrom(...from), { minLength: 1, maxLength: 2 });
const relation = fc.constantFrom('gt', 'ge', 'lt', 'le', 'eq', 'ne');
const NUMERIC = ':comparator "i;ascii-numeric"';

const relational = fc.oneof(
  fc
    .tuple(relation, some(['x-tag', 'to', 'cc', 'subject', 'x-none']), fc.constantFrom('0', '1', '2', '3'))
    .map(([how, headers, key]) => `header :count "${how}" ${NUMERIC} ${list(headers)} "${key}"`),
  fc
    .tuple(relation, some(['to', 'cc']), fc.constantFrom('0', '1', '2', '3', '4'))
    .map(([how, headers, key]) => `address :count "${how}" ${NUMERIC} ${list(headers)} "${key}"`),
  fc
    .tuple(relation, fc.constantFrom('0', '5', '12', '007', '100000000000'))
    .map(([how, key]) => `header :value "${how}" ${NUMERIC} "x-number" "${key}"`),
  fc
    .tuple(
      relation,
      fc.constantFrom('', ':comparator "i;octet" '),
      some(['subject', 'x-tag']),
      some(['oak', 'M', 'weir', 'a']),
    )
    .map(([how, comparator, headers, keys]) => `header :value "${how}" ${comparator}${list(headers)} ${list(keys)}`),
);
const encoded = fc
  .constantFrom(
    '${hex:6f 61 6b}',
    '${HEX: 6f}a${hex:6B}',
    '${unicode:77}eir',
    '${unicode: 000077 65}ir',
    '${hex:6f',
    'o${hex:61}k*',
  ) // prettier-ignore
  .chain((key) => fc.constantFrom(':contains', ':is', ':matches').map((type) => `header ${type} "subject" "${key}"`));
const plain = fc.constantFrom(
  'header :contains "subject" "oak"',
  'exists "cc"',
  'header :is "x-tag" "weir"',
  'address :domain "from" "mill.example"',
);
const test_ = fc.oneof(relational, relational, encoded, plain);
const condition = fc.oneof(
  test_,
  test_.map((one) => `not ${one}`),
  fc.tuple(fc.constantFrom('allof', 'anyof'), test_, test_).map(([name, a, b]) => `${name} (${a}, ${b})`),
);

const filing = fc.constantFrom('fileinto "A";', 'fileinto "B"; stop;', 'keep;', 'discard;');
const refusing = fc.constantFrom('reject "no"; stop;', 'reject text:\nNot here.\n..\n.\n;\nstop;', 'discard;');
const editing = fc.constantFrom('addheader "X-New" "yes";', 'addheader :last "X-Other" "no";', 'deleteheader "X-Old";');

/** A name set from a match, joined, and tested again. */
const withVariables = fc
  .tuple(
    fc.constantFrom<[string, number]>(['* beam', 1], ['*oak', 1], ['?a*', 2], ['*', 1], ['we??*', 3], ['oak*', 1]),
    modifier,
    modifier,
    fc.constantFrom(':is', ':contains', ':matches'),
    fc.constantFrom('oak', 'Oak', '*k', '4', ''),
  )
  .chain(([[pattern, count], first, second, type, key]) =>
    fc
      .integer({ min: 1, max: count })
      .map((picked) =>
        [
          'set "a" "none";',
          `if header :matches "subject" "${pattern}" { set ${first}"a" "\${${picked}}"; fileinto "is \${1}"; }`,
          `set ${second}"B" "<\${a}>";`,
          `if string ${type} "\${A}" "${key}" { fileinto "same \${b}"; }`,
          'else { fileinto "other ${b}${c}${${a}}"; }',
        ].join('\n'),
      ),
  );

const rules = (action: fc.Arbitrary<string>) =>
  fc
    .array(
      fc.tuple(condition, action, fc.option(action)).map(([when, then, otherwise]) => {
        return `if ${when} { ${then} }${otherwise === null ? '' : ` else { ${otherwise} }`}`;
      }),
      { minLength: 1, maxLength: 4 },
    )
    .map((parts) => parts.join('\n'));

const headed = (required: readonly string[], body: fc.Arbitrary<string>) =>
  body.map((text) => `require ${list(required)};\n${text}`);
const RELATIONAL = ['relational', 'comparator-i;ascii-numeric'];

const SUBJECTS = ['oak', 'Oak beam', 'weir', 'Weir and oak', 'mill', 'lime oak', 'maalt', 'a', 'oak*', 'WEIR?'];
const message = fc
  .tuple(
    fc.option(fc.constantFrom(...SUBJECTS)),
    fc.uniqueArray(fc.constantFrom('ann@mill.example', 'bob@oak.example', 'Cy <cy@x.example>'), {
      minLength: 1,
      maxLength: 3,
    }),
    fc.option(fc.constantFrom('ann@mill.example', 'bob@oak.example, cy@x.example')),
    fc.array(fc.constantFrom('weir', 'oak', 'Mill', 'a'), { maxLength: 3 }),
    fc.option(fc.constantFrom('0', '5', '12', '7', '5.9', '100000000001')),
  )
  .map(([subject, to, cc, tags, number]) =>
    [
      ...(subject === null ? [] : [`Subject: ${subject}`]),
      'From: ann@mill.example',
      'X-Old: yes',
      `To: ${to.join(', ')}`,
      ...(cc === null ? [] : [`Cc: ${cc}`]),
      ...tags.map((tag) => `X-Tag: ${tag}`),
      ...(number === null ? [] : [`X-Number: ${number}`]),
      '',
      'words',
      '',
    ].join('\n'),
  );

describe('our interpreter and the one of mailutils do the same with', () => {
  test.each([
    ['relational and encoded-character', headed([...RELATIONAL, 'encoded-character', 'fileinto'], rules(filing)), 4],
    ['reject', headed([...RELATIONAL, 'encoded-character', 'reject'], rules(refusing)), 3],
    ['variables', headed(['variables', 'fileinto'], withVariables), 8],
    [
      'editheader',
      headed([...RELATIONAL, 'encoded-character', 'editheader', 'fileinto'], rules(fc.oneof(editing, filing))),
      8,
    ],
  ])('%s', (_what, script, different) => {
    const mailutils = new Mailutils(fc.sample(message, { seed: SEED, numRuns: MESSAGES }));
    const { runs, outcomes } = compareRuns(mailutils, fc.sample(script, { seed: SEED, numRuns: SCRIPTS }));
    mailutils.close();
    expect(runs).toBe(SCRIPTS * MESSAGES);
    expect(outcomes.size).toBeGreaterThanOrEqual(different);
  });
});
