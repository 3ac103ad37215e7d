import fc from 'fast-check';
import { elementAt } from '../text/lookup';

/** Generated scripts and messages over a small vocabulary, so that tests often match and overlap. */

const WORDS = ['weir', 'Weir', 'oak', 'lime', 'mill', 'GRÜN', 'grün', '', 'a*b', 'urgent', 'oak beam'];
const HEADERS = ['Subject', 'From', 'To', 'Cc', 'X-Tag', 'List-Id'];
const ADDRESSES = [
  'ann@mill.example',
  'bob@Oak.example',
  '"ann lee"@mill.example',
  'lime@sub.mill.example',
  'postmaster',
];
const FOLDERS = ['INBOX', 'inbox', 'Oak', 'Lime', 'Müll "x"'];
const FLAGS = ['\\Seen', '\\Flagged', '$Later', 'oak'];

/** Modifiers of `set`, and none (RFC 5229 section 4.1). */
export const modifier = fc.constantFrom(
  '',
  ':lower ',
  ':upper ',
  ':lowerfirst ',
  ':upperfirst ',
  ':length ',
  ':quotewildcard ',
);

export const quoted = (text: string) => `"${text.replace(/[\\"]/g, '\\$&')}"`;
export const list = (items: readonly string[]) =>
  items.length === 1 ? quoted(elementAt(items, 0)) : `[${items.map(quoted).join(', ')}]`;
export const some = (from: readonly string[], max = 2) =>
  fc.uniqueArray(fc.constantFrom(...from), { minLength: 1, maxLength: max });

const match = fc.constantFrom(':is', ':contains', ':matches', '');
const comparator = fc.constantFrom('', '', '', ':comparator "i;octet"', ':comparator "i;ascii-casemap"');
const key = fc.oneof(
  fc.constantFrom(...WORDS),
  fc.constantFrom('*', '*oak*', '?ime', 'we*', 'gr??n', '\\*', 'a\\*b', '*@mill.example'),
);
const keys = fc.uniqueArray(key, { minLength: 1, maxLength: 3 });

const headerTest = fc
  .tuple(comparator, match, some(HEADERS), keys)
  .map(([how, type, headers, words]) => ['header', how, type, list(headers), list(words)]);
const addressTest = fc
  .tuple(
    comparator,
    fc.constantFrom('', ':all', ':localpart', ':domain'),
    match,
    some(HEADERS),
    fc.uniqueArray(fc.oneof(fc.constantFrom(...ADDRESSES, 'mill.example', 'ann', 'oak'), key), {
      minLength: 1,
      maxLength: 3,
    }),
  )
  .map(([how, part, type, headers, words]) => ['address', how, part, type, list(headers), list(words)]);
const envelopeTest = fc
  .tuple(some(['from', 'to']), fc.constantFrom('', ':domain'), match, some([...ADDRESSES, '', '*']))
  .map(([parts, part, type, words]) => ['envelope', part, type, list(parts), list(words)]);
const existsTest = some(HEADERS).map((headers) => ['exists', list(headers)]);
const sizeTest = fc
  .tuple(fc.constantFrom(':over', ':under'), fc.constantFrom('100', '150', '200', '1K'))
  .map(([relation, limit]) => ['size', relation, limit]);
const flagTest = fc.tuple(match, some(FLAGS)).map(([type, flags]) => ['hasflag', type, list(flags)]);

const leaf = fc
  .oneof(
    { weight: 4, arbitrary: headerTest },
    { weight: 3, arbitrary: addressTest },
    envelopeTest,
    existsTest,
    sizeTest,
    flagTest,
    fc.constantFrom(['true'], ['false']),
  )
  .map((words) => words.filter((word) => word !== '').join(' '));

export const testText: fc.Arbitrary<string> = fc.letrec<{ test: string }>((tie) => ({
  test: fc.oneof(
    { maxDepth: 3, withCrossShrink: true },
    leaf,
    tie('test').map((test) => `not ${test}`),
    fc
      .tuple(fc.constantFrom('allof', 'anyof'), fc.array(tie('test'), { minLength: 1, maxLength: 3 }))
      .map(([name, tests]) => `${name} (${tests.join(', ')})`),
  ),
})).test;

const flagArgument = fc.oneof(
  fc.constant(''),
  some(FLAGS).map((flags) => `:flags ${list(flags)} `),
  fc.constant(':flags "" '),
);
const action = fc.oneof(
  fc
    .tuple(fc.constantFrom('', ':copy '), flagArgument, fc.constantFrom(...FOLDERS))
    .map(([copy, flags, folder]) => `fileinto ${copy}${flags}${quoted(folder)};`),
  fc.constantFrom('discard;', 'redirect "ann@out.example";', 'redirect :copy "ann@OUT.example";'),
  flagArgument.map((flags) => `keep ${flags};`),
  fc.tuple(fc.constantFrom('setflag', 'addflag', 'removeflag'), some(FLAGS)).map(([name, flags]) => {
    return `${name} ${list(flags)};`;
  }),
);

const body: fc.Arbitrary<string> = fc
  .tuple(fc.array(action, { maxLength: 3 }), fc.constantFrom('', '', 'stop;'))
  .map(([actions, ending]) => [...actions, ending].join(' '));

const branches = (inner: fc.Arbitrary<string>) =>
  fc
    .tuple(testText, inner, fc.array(fc.tuple(testText, inner), { maxLength: 2 }), fc.option(inner))
    .map(([test, first, more, last]) =>
      [
        `if ${test} { ${first} }`,
        ...more.map(([next, text]) => `elsif ${next} { ${text} }`),
        ...(last === null ? [] : [`else { ${last} }`]),
      ].join('\n'),
    );

const nested = branches(fc.array(fc.oneof(body, branches(body)), { maxLength: 2 }).map((parts) => parts.join('\n')));

/** A whole script of the core language with fileinto, copy, envelope and imap4flags. */
export const scriptText: fc.Arbitrary<string> = fc
  .array(fc.oneof({ weight: 4, arbitrary: branches(body) }, nested, action), { minLength: 1, maxLength: 6 })
  .map((groups) => `require ["fileinto", "copy", "envelope", "imap4flags"];\n${groups.join('\n')}\n`);

const FULL_REQUIRE = `require ["fileinto", "copy", "envelope", "imap4flags", "body", "relational", "comparator-i;ascii-numeric",
  "subaddress", "regex", "date", "index", "variables", "reject", "vacation", "enotify", "editheader", "mailbox", "ihave",
  "comparator-i;unicode-casemap", "encoded-character", "duplicate", "mime", "foreverypart", "environment", "replace", "enclose"];\n`;

const fullLeaf = fc.constantFrom(
  'body :contains "oak"',
  'body :raw :matches "*words*"',
  'body :content "text" :is "words"',
  'header :count "ge" :comparator "i;ascii-numeric" ["x-tag", "to"] "2"',
  'header :value "gt" "subject" "mill"',
  'address :user :is "to" "ann"',
  'address :detail :matches "to" "*"',
  'header :regex "subject" "^(oak|we.r)"',
  'header :index 1 :contains ["x-tag", "to"] "oak"',
  'header :last :index 1 :is "x-tag" "weir"',
  'currentdate :is "year" "2026"',
  'date "date" "year" "2026"',
  'header :comparator "i;unicode-casemap" :contains "subject" "GRÜN"',
  'mailboxexists "Oak"',
  'ihave "fileinto"',
  'environment "name" "x"',
  'header :is "subject" "${hex:6f 61 6b}"',
  'header :matches "subject" "*${unicode:6f}ak*"',
  'duplicate',
  'valid_notify_method "mailto:a@b.example"',
  'header :mime :contains "content-type" "text"',
);
const fullAction = fc.constantFrom(
  'reject "no";',
  'vacation "away";',
  'vacation :days 3 :subject "x" "gone";',
  'notify "mailto:a@b.example";',
  'error "no more";',
  'replace "gone";',
  'enclose "all of it";',
  'fileinto :create "Made";',
);
const withVariables = fc.constantFrom(
  'if header :matches "subject" "* *" { fileinto "${1}"; }',
  'set :upper "x" "oak"; if string :is "${x}" "OAK" { addflag "up"; }',
  'if address :matches "from" "*@*" { set "who" "${1}"; } else { set "who" "nobody"; }\nif not string "${who}" "" { fileinto :copy "${who}"; }',
  'addflag "a"; if hasflag "a" { if string "${1}" "" { keep; } }',
  'addheader "X-Tag" "oak"; deleteheader "subject";',
  'addflag "held" ["a", "oak"]; if hasflag "held" "oak" { keep :flags "${held}"; }',
  'addflag "seen"; if allof (hasflag "seen", not duplicate) { discard; }',
  'addflag "a"; foreverypart { if hasflag "a" { removeflag "a"; addflag "b"; } }',
  'addflag "x" "oak"; if header :contains "subject" "oak" { removeflag "x" "oak"; } fileinto :flags "${x}" "Oak";',
  'deleteheader :index 1 :contains "x-tag" "we";',
  'foreverypart { if header :mime :contains "content-type" "text" { addflag "part"; break; } }',
);

/** A script that uses much of the whole language. */
export const fullScriptText: fc.Arbitrary<string> = fc
  .tuple(
    fc.array(
      fc.oneof(
        { weight: 3, arbitrary: branches(body) },
        {
          weight: 4,
          arbitrary: fc
            .tuple(fullLeaf, fc.oneof(fullAction, action), fc.constantFrom('', 'stop;'))
            .map(([test, act, ending]) => `if ${test} { ${act} ${ending} }`),
        },
        { weight: 1, arbitrary: fullAction },
      ),
      { minLength: 1, maxLength: 5 },
    ),
    fc.option(withVariables),
    fc.nat(5),
  )
  .map(([groups, extra, at]) => {
    const all = extra === null ? groups : [...groups.slice(0, at), extra, ...groups.slice(at)];
    return `${FULL_REQUIRE}${all.join('\n')}\n`;
  });

const value = fc
  .array(fc.oneof(fc.constantFrom(...WORDS, ...ADDRESSES), fc.constantFrom('x', '*', 'e=f')), { maxLength: 3 })
  .map((words) => words.join(' '));
const mailbox = fc.oneof(
  fc.constantFrom(...ADDRESSES),
  fc
    .tuple(fc.constantFrom(...WORDS), fc.constantFrom(...ADDRESSES.slice(0, 4)))
    .map(([name, at]) => `"${name}" <${at}>`),
  fc.constantFrom('team: ann@mill.example, bob@oak.example;', '(comment) lime@mill.example', 'nobody:;', '<broken'),
);
const field = fc.oneof(
  value.map((text) => `Subject: ${text}`),
  fc.array(mailbox, { minLength: 1, maxLength: 2 }).map((boxes) => `From: ${boxes.join(', ')}`),
  fc.array(mailbox, { maxLength: 3 }).map((boxes) => `To: ${boxes.join(',\n ')}`),
  mailbox.map((box) => `Cc: ${box}`),
  value.map((text) => `X-Tag:  ${text}  `),
  value.map((text) => `List-Id: <${text}>`),
  fc.constantFrom(
    'Subject: =?utf-8?q?GR=C3=9CN?= =?utf-8?b?b2Fr?=',
    'Return-Path: <ann@mill.example>',
    'Return-Path: <>',
  ),
);

export const messageText: fc.Arbitrary<string> = fc
  .tuple(fc.array(field, { maxLength: 6 }), fc.array(fc.constantFrom('words', 'oak', ''), { maxLength: 20 }))
  .map(([fields, lines]) => `${fields.map((text) => `${text}\n`).join('')}\n${lines.join('\n')}\n`);
