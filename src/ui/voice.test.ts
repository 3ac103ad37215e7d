import { execFileSync } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, expect, test } from 'vitest';

/** Words with which the interface once said what the standards and other programs call otherwise, and what to say. */
const REFUSED: readonly (readonly [RegExp, string])[] = [
  [/\bholds? (?:for|when)\b|\btests? holds?\b/i, 'matches, is true'],
  [/\bfires?\b|\bfired\b/, 'acts on'],
  [/\bit ends here\b/, 'then stop'],
  [/\bdrops?\b(?! (?:here|your|more|the file|it on))|\bdropped\b/i, 'discard'],
  [/\brefuse[sd]?\b|\brefusals?\b/i, 'reject'],
  [/\bsen[dt]s? (?:it |them |mail )?on\b/, 'redirect'],
  [/\blies? in\b|\blay in\b|\bwhere they lie\b/, 'is in'],
  [/\bends? (elsewhere|otherwise)\b/, 'has a different destination'],
  [/\bfates?\b/i, 'destination'],
  [/\bbr(?:ing|ought) (?:it |them |rules |mail )?in\b/i, 'import'],
  [/\btak(?:e|en) (?:it |them )?away\b/i, 'download'],
  [/\bmake this change\b|\blook at it\b|^leave it$|\bbegin again\b|^keep it$/i, 'apply, preview, cancel, reset, save'],
  [/\brule at hand\b/i, 'selected rule'],
  [/\bthe foot\b/, 'end of the chain'],
  [/\bdry\b/, 'never acts'],
  [/\bborne out\b|\bbears? (?:it )?out\b/, 'confirmed'],
  [/\bmade[- ]up (?:message|mail)\b/, 'example message'],
  [/\bsaid as (?:it|they) (?:is|are)\b|\bat a cost\b|\bit costs\b|\bcosts? nothing\b/, 'exported with a difference'],
  [/\bstand-in\b|\bplayed here\b/, 'built-in demo server'],
  [/\bserver of scripts\b/, 'mail server'],
  [/\bsigns? in with\b/, 'sign-in details'],
  [/\bas a whole\b/, 'overview, whole chain'],
  [/\brules meet\b/i, 'overlap'],
  [/\btaken together\b|\btake together\b/i, 'batch'],
  [/\bclutter\b/i, 'housekeeping'],
  [/\bhas the form\b/, 'matches'],
  [/\banyone addressed\b|(?<=[:,] )the sender is\b/, 'the fields by their names'],
  [/\bit is not so that\b|\bno mail .* is so\b|\bthey are so\b/i, 'unless'],
  [/\bthere could be\b/, 'possible'],
  [/\bwithout blanks\b/, 'without spaces'],
  [/\bpassed over\b/i, 'skipped'],
  [/\bmend(?:s|ed)?\b/i, 'repair, correct'],
  [/\bstands? (?:here|there|in it)\b/, 'is'],
  [/\bis known here\b|\bknown here\b/, 'supported'],
  [/(?<![Tt]here )\bis no (?!longer)/, 'is not'],
  [/!(?=\s|$)/, 'no exclamation marks'],
  [/\bplease\b/i, 'no “please”'],
];

/** Words for the program, not for people: kinds of data that files and databases keep, and faults of our own code. */
const UNREAD: readonly RegExp[] = [
  /^src\/core\/agreement\//,
  // What people say, which the reader of sentences understands.
  /^src\/core\/rules\/told\/phrases\.ts:/,
  // Names of folders in the map of the code.
  /^docs\/architecture\.md:\d+\t {2}\w+\//,
  // The name of a part of the plan.
  /\tMend$/,
  /\t(?:did not hold|not reached|passed over|not be dropped|mail as findings see it)$/,
];

let lines: readonly string[] = [];

beforeAll(() => {
  const root = join(import.meta.dirname, '../..');
  lines = execFileSync(process.execPath, ['scripts/strings.mjs'], {
    cwd: root,
    encoding: 'utf8',
    maxBuffer: 64 * 2 ** 20,
  })
    .trim()
    .split('\n');
  const pages = [
    'README.md',
    ...readdirSync(join(root, 'docs'))
      .filter((name) => name.endsWith('.md'))
      .map((name) => `docs/${name}`),
  ];
  lines = [
    ...lines,
    ...pages.flatMap((page) =>
      readFileSync(join(root, page), 'utf8')
        .split('\n')
        .map((line, at) => `${page}:${at + 1}\t${line.replace(/`[^`]*`/g, '').replace(/!\[[^\]]*\]\([^)]*\)/g, '')}`),
    ),
  ].filter((line) => !UNREAD.some((unread) => unread.test(line)));
}, 120_000);

test('all strings are read', () => {
  expect(lines.length).toBeGreaterThan(2000);
});

test.each(REFUSED)('no text that a user reads has %s', (pattern, instead) => {
  const found = lines.filter((line) => pattern.test(line.slice(line.indexOf('\t') + 1)));
  expect(found, `say “${instead}”`).toEqual([]);
});
