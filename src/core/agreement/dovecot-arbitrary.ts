import fc from 'fast-check';
import { list, modifier, quoted, some } from './arbitrary';

/** Generated scripts of each extension that dovecot-sieve supports, and messages for them. */

export const given = (...texts: string[]) => texts.filter((text) => text !== '').join(' ');

const WORDS = ['oak', 'Oak', 'weir', 'lime', 'mill', 'grün', 'GRÜN', '', 'oak beam', 'a*b', '5', '12', '007'];
const HEADERS = ['subject', 'x-tag', 'x-number', 'to', 'cc', 'from', 'x-none'];
export const match = fc.constantFrom(':is', ':contains', ':matches', '');
export const comparator = fc.constantFrom('', '', ':comparator "i;octet"', ':comparator "i;ascii-casemap"');
const key = fc.constantFrom(...WORDS, '*', '*oak*', 'we*', '??k', 'a\\*b', '*@mill.example', 'e', '* *');

export const plain = fc.oneof(
  fc
    .tuple(comparator, match, some(HEADERS), fc.uniqueArray(key, { minLength: 1, maxLength: 2 }))
    .map(([how, type, names, keys]) => given('header', how, type, list(names), list(keys))),
  fc
    .tuple(
      comparator,
      fc.constantFrom('', ':all', ':localpart', ':domain', ':user', ':detail'),
      match,
      some(['from', 'to', 'cc', 'bcc']),
      some(['ann', 'ann@mill.example', 'mill.example', 'MILL.example', 'orders', 'a*', '*.example', '*', 'x', ''], 2),
    )
    .map(([how, part, type, names, keys]) => given('address', how, part, type, list(names), list(keys))),
  some(HEADERS).map((names) => `exists ${list(names)}`),
  fc.constantFrom('size :over 100K', 'size :under 100K', 'true', 'false'),
);

const relation = fc.constantFrom('gt', 'ge', 'lt', 'le', 'eq', 'ne');
const NUMERIC = ':comparator "i;ascii-numeric"';
export const counted = fc.oneof(
  fc
    .tuple(relation, some(HEADERS), fc.constantFrom('0', '1', '2', '3'))
    .map(([how, names, level]) => `header :count "${how}" ${NUMERIC} ${list(names)} "${level}"`),
  fc
    .tuple(relation, some(['to', 'from']), fc.constantFrom('0', '1', '2', '3'))
    .map(([how, names, level]) => `address :count "${how}" ${NUMERIC} ${list(names)} "${level}"`),
  fc
    .tuple(relation, fc.constantFrom('0', '5', '12', '007', '99999999999999999999'))
    .map(([how, level]) => `header :value "${how}" ${NUMERIC} ["x-number", "x-tag"] "${level}"`),
  fc
    .tuple(relation, fc.constantFrom('', ':comparator "i;octet"'), some(['subject', 'x-tag']), some(['oak', 'm', 'W']))
    .map(([how, by, names, levels]) => given('header :value', `"${how}"`, by, list(names), list(levels))),
);
export const indexed = fc
  .tuple(
    fc.constantFrom(':index 1', ':index 2', ':last :index 1', ':index 3 :last'),
    match,
    fc.constantFrom('x-tag', 'subject'),
    key,
  )
  .map(([which, type, name, word]) => given('header', which, type, quoted(name), quoted(word)));
const EXPRESSIONS = [
  '^oak',
  '(oak|oak beam)$',
  '[a-m]+',
  '.',
  '^$',
  'o{1,2}',
  '(a|b)*k',
  '^[[:alpha:] ]+$',
  'x?oak',
  'O',
];
export const regex = fc
  .tuple(comparator, some(['subject', 'x-tag', 'to']), some(EXPRESSIONS))
  .map(([how, names, keys]) => given('header', how, ':regex', list(names), list(keys)));
export const body = fc
  .tuple(
    comparator,
    fc.constantFrom(
      '',
      ':text',
      ':raw',
      ':content "text"',
      ':content "text/plain"',
      ':content ""',
      ':content ["text/html", "multipart"]',
    ),
    fc.constantFrom(':contains', ':matches', ':is'),
    fc.constantFrom('weir', 'Oak', 'grün', '*weir*', '=C3', 'prologue', 'd2Vpcg', 'Subject', '*', 'none of it'),
  )
  .map(([how, what, type, word]) => given('body', how, what, type, quoted(word)));
const PARTS = [
  'year',
  'month',
  'day',
  'date',
  'julian',
  'hour',
  'minute',
  'second',
  'time',
  'iso8601',
  'std11',
  'zone',
  'weekday',
];
export const date = fc.oneof(
  fc
    .tuple(
      fc.constantFrom(':zone "+0100"', ':zone "-0530"', ':originalzone', ':zone "+0000"'),
      match,
      fc.constantFrom('date', 'received', 'x-none'),
      fc.constantFrom(...PARTS),
      some([
        '2026',
        '01',
        '1',
        '31',
        '2026-01-31',
        '*-01-*',
        '23',
        '4',
        '61071',
        '+0100',
        '-0530',
        '23:59:*',
        'Sat*',
        '2026-02-01T*',
        '59',
      ]),
    )
    .map(([zone, type, name, part, keys]) => given('date', zone, type, quoted(name), quoted(part), list(keys))),
  fc
    .tuple(relation, fc.constantFrom('date', 'year', 'hour'), fc.constantFrom('2026-02-01', '2026', '12', '23'))
    .map(([how, part, level]) => `date :zone "+0000" :value "${how}" "date" "${part}" "${level}"`),
);
export const mime = fc
  .tuple(
    fc.constantFrom(':mime', ':mime :anychild'),
    fc.constantFrom('', ':type', ':subtype', ':contenttype', ':param "charset"', ':param ["name", "boundary"]'),
    fc.constantFrom(':is', ':contains', ':matches'),
    fc.constantFrom('text', 'plain', 'text/plain', 'utf-8', 'multipart/*', '*', '', 'b', 'attachment'),
  )
  .filter(([, option, , word]) => !option.startsWith(':param') || !/^\*?$/.test(word))
  .map(([where, option, type, word]) => given('header', where, option, type, '"content-type"', quoted(word)));

const joined = (leaf: fc.Arbitrary<string>): fc.Arbitrary<string> =>
  fc.letrec<{ test: string }>((tie) => ({
    test: fc.oneof(
      { maxDepth: 2 },
      leaf,
      leaf.map((one) => `not ${one}`),
      fc
        .tuple(fc.constantFrom('allof', 'anyof'), fc.array(tie('test'), { minLength: 1, maxLength: 3 }))
        .map(([name, tests]) => `${name} (${tests.join(', ')})`),
    ),
  })).test;

const FILINGS = [
  'fileinto "Oak";',
  'fileinto "Lime/Bags";',
  'keep;',
  'discard;',
  'redirect "out@far.example";',
  'fileinto :copy "Copies";',
];
const MARKS = [
  'addflag "\\\\Seen";',
  'setflag ["a", "b"];',
  'removeflag "a";',
  'addflag ["$Later", "a"];',
  'fileinto :flags "c" "Oak";',
  'keep :flags ["d", "\\\\Flagged"];',
  'keep :flags "";',
];

const blockOf = (actions: readonly string[]) =>
  fc
    .tuple(
      fc.uniqueArray(fc.constantFrom(...actions), { minLength: 1, maxLength: 2 }),
      fc.constantFrom('', '', 'stop;'),
    )
    .map(([chosen, ending]) => `{ ${chosen.join(' ')} ${ending} }`);
export const scriptOf = (
  required: readonly string[],
  leaf: fc.Arbitrary<string>,
  actions: readonly string[] = FILINGS,
) => {
  const condition = joined(leaf);
  const block = blockOf(actions);
  const group = fc
    .tuple(condition, block, fc.array(fc.tuple(condition, block), { maxLength: 2 }), fc.option(block))
    .map(([when, first, more, last]) =>
      [
        `if ${when} ${first}`,
        ...more.map(([next, then]) => `elsif ${next} ${then}`),
        ...(last ? [`else ${last}`] : []),
      ].join('\n'),
    );
  return fc
    .array(group, { minLength: 1, maxLength: 4 })
    .map((groups) => `require ${list(['fileinto', 'copy', ...required])};\n${groups.join('\n')}\n`);
};

/** Values set from matches, changed, joined, compared and filed into. */
export const variables = fc
  .tuple(
    fc.constantFrom(
      'header :matches "subject" "* *"',
      'header :matches ["x-tag", "subject"] ["we*", "*a*"]',
      'address :matches :all "from" "*@*"',
      'address :matches :domain ["cc", "to"] "*.*"',
      'header :regex "subject" "(o|oa)(k?)(.*)"',
      'anyof (header :matches "subject" "w*", header :matches "x-tag" "*a*")',
      'allof (header :matches "subject" "*", not header :matches "x-tag" "w*")',
      'header :is "subject" "oak"',
    ),
    fc.oneof(modifier, fc.constant(':upper :lowerfirst ')),
    fc.constantFrom(':is', ':contains', ':matches'),
    fc.constantFrom('oak', '*', 'e', '${1}', '3', ''),
    fc.constantFrom('${1}', '${2}', '${0}', '${1}-${2}', '${none}', '${9}', '${a}b', '${${a}}', '$', '${1'),
  )
  .map(([when, modifier, type, word, value]) =>
    [
      'require ["variables", "fileinto", "regex", "imap4flags"];',
      'set "a" "1";',
      `if ${when} { set ${modifier}"b" "${value}"; }`,
      `if string :comparator "i;ascii-casemap" ${type} "\${b}" "${word}" { fileinto "same \${B}"; } else { fileinto "other \${b}\${1}"; }`,
      'if string :is "${b}" "" { addflag "empty"; keep; }',
    ].join('\n'),
  );

export const editing = fc
  .tuple(
    fc.array(
      fc.constantFrom(
        'addheader "X-Tag" "weir";',
        'addheader :last "X-Tag" "oak";',
        'addheader "X-New" "grün";',
        'deleteheader "X-Tag";',
        'deleteheader :index 1 "X-Tag";',
        'deleteheader :index 1 :last "X-Tag";',
        'deleteheader :contains "X-Tag" "oak";',
        'deleteheader :matches "Subject" ["we*", "*beam"];',
        'if header :is "x-tag" "oak" { addheader "X-Number" "9"; }',
      ),
      { minLength: 1, maxLength: 3 },
    ),
    fc.array(joined(fc.oneof(plain, counted, indexed)), { minLength: 1, maxLength: 3 }),
  )
  .map(([edits, tests]) =>
    [
      'require ["editheader", "fileinto", "index", "relational", "comparator-i;ascii-numeric", "subaddress", "imap4flags"];',
      ...edits,
      ...tests.map((one, at) => `if ${one} { addflag "t${at}"; }`),
    ].join('\n'),
  );

export const loops = fc
  .tuple(
    fc.constantFrom(
      'header :mime :contains "content-type" "text"',
      'header :mime :subtype "content-type" "html"',
      'exists :mime "content-disposition"',
      'header :mime :anychild :type "content-type" "text"',
      'true',
    ),
    fc.constantFrom(
      'break;',
      'addflag "in";',
      'fileinto "Part";',
      'stop;',
      'extracttext "t"; set "all" "${all}<${t}>";',
      'extracttext :first 2 :upper "t"; fileinto "T ${t}";',
    ),
  )
  .map(
    ([when, then]) =>
      `require ["foreverypart", "mime", "extracttext", "variables", "fileinto", "imap4flags"];\nforeverypart { if ${when} { ${then} } else { addflag "other"; } }\nif string :contains "\${all}" "weir" { fileinto "Weir"; }\n`,
  );

export const flags = scriptOf(
  ['imap4flags', 'variables'],
  fc.oneof(
    plain.filter((one) => !/:(user|detail)/.test(one)),
    fc
      .tuple(
        fc.constantFrom(':is', ':contains', ':matches'),
        some(['a', 'b', '\\Seen', '$Later', '*', 'a b', 'x  A', '']),
      )
      .filter(([type, names]) => type !== ':matches' || !names.some((name) => name.includes(' ')))
      .map(([type, names]) => `hasflag ${type} ${list(names)}`),
    fc.constantFrom(`hasflag :count "ge" ${NUMERIC} "2"`),
  ),
  [...FILINGS, ...MARKS],
).map((source) => source.replace('"variables"', '"relational", "comparator-i;ascii-numeric"'));

const ENCODED = [
  '=?utf-8?Q?gr=C3=BCn?=',
  '=?iso-8859-1?Q?gr=FCn?= =?utf-8?B?b2Fr?=',
  'a =?utf-8?q?oak?= b',
  '=?utf-8?q?oak_?= =?utf-8?q?beam?=',
];
const BOXES = [
  'ann@mill.example',
  'Bob <bob+orders@oak.example>',
  '"Lee, Ann" <ann+@sub.mill.example>',
  'team: x@y.example, ann@mill.example;',
];
const DATES = [
  'Sat, 31 Jan 2026 23:59:59 +0100',
  'Sun, 1 Feb 2026 00:00:00 -0530',
  '1 Jan 26 12:30 GMT',
  'Sat, 31 Jan 2026 23:59:59 +0100 (CET)',
  'no date',
];
const BODIES: readonly (readonly [fields: readonly string[], lines: readonly string[]])[] = [
  [[], ['The weir by the Oak.', 'grün']],
  [
    [
      'MIME-Version: 1.0',
      'Content-Type: text/plain; charset=iso-8859-1',
      'Content-Transfer-Encoding: quoted-printable',
    ],
    ['gr=FCn, the we=', 'ir'],
  ],
  [
    ['MIME-Version: 1.0', 'Content-Type: text/plain; charset=utf-8', 'Content-Transfer-Encoding: base64'],
    ['d2VpciBPYWs='],
  ],
  [
    ['MIME-Version: 1.0', 'Content-Type: multipart/mixed; boundary="b"'],
    [
      'prologue',
      '--b',
      'Content-Type: text/plain; charset=utf-8',
      '',
      'grün Oak',
      '--b',
      'Content-Type: application/pdf; name=a.pdf',
      'Content-Disposition: attachment; filename=a.pdf',
      'Content-Transfer-Encoding: base64',
      '',
      'd2Vpcg==',
      '--b--',
      'epilogue',
    ],
  ],
  [
    ['MIME-Version: 1.0', 'Content-Type: multipart/mixed; boundary=b'],
    [
      '--b',
      'Content-Type: message/rfc822',
      '',
      'Subject: inner weir',
      'MIME-Version: 1.0',
      'Content-Type: text/plain',
      '',
      'inner Oak',
      '--b more',
      'Content-Type: text/html',
      '',
      '<p>weir</p>',
      '--b--',
    ],
  ],
];
export const message = fc
  .tuple(
    fc.option(fc.constantFrom(...WORDS, ...ENCODED, 'one\n\ttwo', 'weir  and oak')),
    fc.constantFrom(...BOXES.slice(0, 3)),
    fc.uniqueArray(fc.constantFrom(...BOXES), { minLength: 1, maxLength: 3 }),
    fc.option(fc.constantFrom(...BOXES)),
    fc.array(fc.constantFrom('weir', 'oak', 'Mill', 'a', '  oak  ', 'we ak'), { maxLength: 3 }),
    fc.option(fc.constantFrom('0', '5', '12', '7', '5.9', '100000000000000000001', '-3', 'x')),
    fc.constantFrom(...DATES),
    fc.constantFrom(...BODIES),
  )
  .map(([subject, from, to, cc, tags, number, sent, [fields, lines]]) =>
    [
      `Received: from a.example by b.example; ${sent}`,
      ...(subject === null ? [] : [`Subject: ${subject}`]),
      `From: ${from}`,
      `To: ${to.join(',\n ')}`,
      ...(cc === null ? [] : [`Cc: ${cc}`]),
      ...tags.map((tag) => `X-Tag: ${tag}`),
      ...(number === null ? [] : [`X-Number: ${number}`]),
      `Date: ${sent}`,
      ...fields,
      '',
      ...lines,
      '',
    ].join('\n'),
  );
