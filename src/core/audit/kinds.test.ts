import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { amongTraffic } from '../flow/conditions';
import { runFlow } from '../flow/flow';
import { keyUses } from '../flow/key-uses';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { maybeWitness } from '../reason/witness';
import { chainFromSieve } from '../rules/from-sieve';
import { type AuditInput, type AuditSettings, auditChain } from './catalogue';
import { isConfirmed } from './grouping';
import { auditBudget } from './questions';
import { MailGatherer, trafficIn } from './stored';

/** Kinds that need stored mail: what each states, and what it does not. */

interface Letter {
  readonly from?: string;
  readonly to?: string;
  readonly subject?: string;
  readonly folder?: string;
  readonly flags?: readonly string[];
  readonly year?: number;
  readonly fields?: readonly string[];
  readonly body?: string;
}

const ME = 'me@mill.example';

function audited(rules: string, letters: readonly Letter[], settings: AuditSettings = {}) {
  const needs = '"fileinto", "imap4flags", "copy", "mailbox", "editheader", "foreverypart", "mime", "date", "body"';
  const { chain, diagnostics } = chainFromSieve(`require [${needs}];\n${rules}\n`);
  expect(diagnostics).toEqual([]);
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  letters.forEach(({ from = 'Ann Lee <ann@x.example>', to = ME, subject = 'letter', ...rest }, at) => {
    const { folder = 'INBOX', flags = ['\\seen'], year = 2026, fields = [], body = 'words' } = rest;
    const head = [`From: ${from}`, `To: ${to}`, `Subject: ${subject}`, `Date: 1 Jan ${year} 10:00:00 +0000`, ...fields];
    const message = readMessage(
      new TextEncoder().encode([...head, `Message-ID: <${at}@x.example>`, '', body, ''].join('\n')),
    );
    gatherer.add({ message, folder, flags });
    columns.add(message, envelopeOf(message, ME));
  });
  const mail = gatherer.mail([ME]);
  const atoms = amongTraffic(evaluateAtoms(atomsOf(chain), columns), trafficIn(mail));
  const usesOf: AuditInput['usesOf'] = (wanted) => keyUses(wanted, columns);
  const input = { chain, flow: runFlow(chain, atoms, columns.count), atoms, mail, usesOf };
  return auditChain(input, settings);
}

const found = (rules: string, letters: readonly Letter[]) => audited(rules, letters).findings;

const messagesOf = (kind: string, rules: string, letters: readonly Letter[]): (readonly number[])[] =>
  found(rules, letters).flatMap((finding) => (finding.kind === kind ? [finding.messages] : []));

const times = <T>(count: number, make: (at: number) => T): T[] => Array.from({ length: count }, (_, at) => make(at));

test('pairs beyond the budget are settled and counted, and not listed', () => {
  const rules = ['a', 'b', 'c', 'd'].map((key) => `if header :contains "subject" "${key}" { fileinto "${key}"; }`);
  const letters = times(5, () => ({ subject: 'a b c d' }));
  const whole = audited(rules.join('\n'), letters);
  expect([whole.overlaps.length, whole.unasked, whole.unlisted]).toEqual([6, 0, 0]);
  const part = audited(rules.join('\n'), letters, { budget: { ...auditBudget(4), common: 10 } });
  expect([part.overlaps.length, part.unasked, part.unlisted]).toEqual([2, 0, 4]);
  expect(part.findings.filter(({ kind }) => kind === 'overlap')).toHaveLength(2);
});

describe('too-broad', () => {
  const rule = (key: string) => `if header :contains "from" "${key}" { fileinto "Ann"; }`;
  const people = ['Ann Lee <ann@x.example>', 'Hannah Marsh <h@y.example>', 'Anne Roe <anne@z.example>'];

  test('a name within other words, an ending aside', () => {
    expect(
      messagesOf(
        'too-broad',
        rule('ann'),
        people.map((from) => ({ from })),
      ),
    ).toEqual([[1]]);
  });
  test('a part of an address or a domain within another one, subdomains aside', () => {
    const from = ['a@bank.example', 'a@post.bank.example', 'b@riverbank.example', 'c@bank.example.other.example'];
    const letters = from.map((address) => ({ from: address }));
    expect(messagesOf('too-broad', rule('bank.example'), letters)).toEqual([[2, 3]]);
    expect(messagesOf('too-broad', rule('@bank.example'), letters)).toEqual([[3]]);
    expect(messagesOf('too-broad', rule('ann@x.example'), [{ from: 'joann@x.example' }])).toEqual([[0]]);
  });
  test('a word of the body within other words, where it does not stand by itself as well', () => {
    const bodies = ['smörgåsart', 'Art!\n\nstart', 'a party, partly', 'no such word', 'arts', 'the mill start'];
    const body = (key: string) => `if body :text :contains "${key}" { fileinto "Art"; }`;
    const letters = bodies.map((one) => ({ body: one, fields: ['Content-Type: text/plain; charset=utf-8'] }));
    expect(messagesOf('too-broad', body('art'), letters)).toEqual([[0, 2, 5]]);
    expect(messagesOf('too-broad', body('Party'), letters)).toEqual([]);
    const [finding] = found(body('art'), letters).filter(({ kind }) => kind === 'too-broad');
    expect(finding?.claim).toContain(
      'looks for “art” in the body and also matches 3 messages where it is only part of',
    );
    expect(finding?.claim).toContain('“smörgåsart”');
  });
  test.each(['x.example', '水'])('%s is not within another word', (key) => {
    expect(
      messagesOf('too-broad', rule(key), [{ from: `a水b <xann@x.example>` }, ...people.map((from) => ({ from }))]),
    ).toEqual([]);
  });
});

describe('too-narrow', () => {
  test('the same person from another address, and a subdomain; not other people of the domain', () => {
    const rule = 'if address :domain :is "from" "oak.example" { fileinto "Oak"; }';
    const letters = [
      { from: 'Tom Fenn <tom@oak.example>' },
      { from: 'Tom Fenn <tom@home.example>' },
      { from: 'Post <post@news.oak.example>' },
      { from: 'Tom <tom@else.example>' },
    ];
    expect(messagesOf('too-narrow', rule, letters)).toEqual([[1, 2]]);
  });
  test('a rule for words in the subject misses nothing', () => {
    const list = { fields: ['List-Id: <list.x.example>'] };
    const letters = [{ ...list, subject: 'oak' }, { ...list, subject: 'oak' }, list];
    expect(messagesOf('too-narrow', 'if header :contains "subject" "oak" { fileinto "Oak"; }', letters)).toEqual([]);
  });
  test('what is exempt is not missed', () => {
    const rule =
      'if allof (address :domain :is "from" "oak.example", not header :contains "subject" "hello") { fileinto "Oak"; }';
    const letters = [{ from: 'A B <a@oak.example>' }, { from: 'A B <a@oak.example>', subject: 'hello' }];
    expect(messagesOf('too-narrow', rule, letters)).toEqual([]);
  });
});

describe('hidden-unread, unprotected, placement-disagrees', () => {
  const files = 'if header :contains "subject" "oak" { fileinto "Oak"; }';
  const unseen = { subject: 'oak', folder: 'Oak', flags: [] };
  const seen = { subject: 'oak', folder: 'Oak' };

  test('five unseen messages at least, and three tenths', () => {
    expect(messagesOf('hidden-unread', files, [seen, ...times(4, () => unseen)])).toEqual([]);
    expect(messagesOf('hidden-unread', files, [seen, ...times(5, () => unseen)])).toEqual([[1, 2, 3, 4, 5]]);
    expect(messagesOf('hidden-unread', files, [...times(15, () => seen), ...times(5, () => unseen)])).toEqual([]);
  });
  test('where no message is marked as seen, nothing is known of that', () => {
    expect(
      messagesOf(
        'hidden-unread',
        files,
        times(9, () => unseen),
      ),
    ).toEqual([]);
  });
  test('mail of people one has written to is of value', () => {
    const written = { from: ME, to: 'tom@oak.example', folder: 'Sent' };
    const letter = { from: 'Tom Fenn <tom@oak.example>', to: 'all@x.example', subject: 'oak' };
    const discards = 'if header :contains "subject" "oak" { discard; }';
    expect(messagesOf('unprotected', discards, [written, letter])).toEqual([[1]]);
    expect(messagesOf('unprotected', discards, [letter])).toEqual([]);
    expect(messagesOf('unprotected', discards, [{ ...letter, flags: ['\\flagged'] }])).toEqual([[0]]);
  });
  test('three messages in a folder of the user’s own choice, the inbox aside', () => {
    const elsewhere = (folder: string) =>
      messagesOf('placement-disagrees', files, [
        ...times(3, () => ({ subject: 'oak', folder })),
        { folder: 'Friends' },
      ]);
    expect(elsewhere('Timber')).toEqual([[0, 1, 2]]);
    expect(elsewhere('Archive/2024')).toEqual([]);
    expect(elsewhere('INBOX')).toEqual([]);
    expect(elsewhere('Oak')).toEqual([]);
  });
});

test('where all mail is in one folder, nothing is said of filing but that it is not known', () => {
  const letters = times(5, () => ({ subject: 'oak', folder: 'all' }));
  const { findings, notes } = audited('if header :contains "subject" "oak" { fileinto "Oak"; }', letters);
  expect(findings.filter(({ kind }) => /folder|placement/.test(kind))).toEqual([]);
  expect(notes).toEqual([expect.stringContaining('All 5 imported messages are in one folder')]);
});

describe('folders that are made where there are none', () => {
  test('are folders as any: what disagrees with them, and what is cut short', () => {
    const rules = (create: string) =>
      [
        `if header :contains "subject" "oak" { fileinto ${create} "Oak"; }`,
        `if header :contains "subject" "beam" { fileinto ${create} "Beams"; stop; }`,
        `if header :contains "from" "ann" { fileinto :copy ${create} "Ann"; }`,
      ].join('\n');
    const letters = [{ subject: 'oak beam' }, { subject: 'beam' }];
    const keys = (create: string) => found(rules(create), letters).map(({ key }) => key);
    expect(keys(':create')).toContain('runs-on r1 r2');
    expect(keys(':create')).toContain('cut-short r2 r3');
    expect(keys(':create')).toEqual(keys(''));
    // An identical copy is not missed, whoever creates the folder.
    const twice = (create: string) =>
      `if exists "subject" { fileinto :copy "Ann"; stop; }\nif exists "from" { fileinto :copy ${create} "Ann"; }`;
    expect(found(twice(':create'), letters).map(({ key }) => key)).not.toContain('cut-short r1 r2');
    expect(found(twice('').replace(' "Ann"; }', ' "Bo"; }'), letters).map(({ key }) => key)).toContain(
      'cut-short r1 r2',
    );
  });
});

describe('exceptions', () => {
  const rule =
    'if allof (header :contains "subject" "oak", not address :is "from" "tom@oak.example") { fileinto "Oak"; }';

  test('narrow: replies in a conversation that is exempt', () => {
    const letters = [
      { from: 'Tom Fenn <tom@oak.example>', subject: 'oak' },
      { from: 'Al <al@z.example>', subject: 'Re: oak', fields: ['In-Reply-To: <0@x.example>'] },
      { from: 'Al <al@z.example>', subject: 'oak again' },
    ];
    expect(messagesOf('exception-narrow', rule, letters)).toEqual([[1]]);
  });
  test('narrow: the exempt word with other marks on its letters', () => {
    const greeting = 'if allof (exists "subject", not header :contains "subject" "cafe") { fileinto "Rest"; }';
    expect(messagesOf('exception-narrow', greeting, [{ subject: 'Café' }, { subject: 'cafe' }])).toEqual([[0]]);
  });
  test('uneven: the rule without an exception takes what the other one exempts', () => {
    const other = 'if address :domain :is "from" "oak.example" { fileinto "Oak"; }';
    const letters = [{ from: 'Tom <tom@oak.example>', subject: 'oak' }];
    expect(messagesOf('exception-uneven', `${rule}\n${other}`, letters)).toEqual([[0]]);
    expect(messagesOf('exception-bypassed', `${rule}\n${other}`, letters)).toEqual([]);
    expect(messagesOf('exception-bypassed', `${rule}\n${other.replace('"Oak"', '"Yard"')}`, letters)).toEqual([[0]]);
  });
  test('bypassed: not where it reaches the inbox all the same', () => {
    const other = 'if address :domain :is "from" "oak.example" { fileinto "Yard"; keep; }';
    const letters = [{ from: 'Tom <tom@oak.example>', subject: 'oak' }];
    expect(messagesOf('exception-bypassed', `${rule}\n${other}`, letters)).toEqual([]);
  });
});

describe('forward-risk, idle, missing-folder', () => {
  const risk = (action: string, test = 'header :contains "subject" "oak"') =>
    found(`if ${test} { ${action} }`, [{ subject: 'oak', to: 'all@x.example' }]).find(
      ({ kind }) => kind === 'forward-risk',
    )?.claim;

  test('back to oneself, without a copy, all mail', () => {
    expect(risk('redirect :copy "other@mill.example";')).toBeUndefined();
    expect(risk('redirect :copy "me@MILL.example";')).toContain('one of your own addresses');
    expect(risk('redirect "me2@mill.example";')).toContain('no copy is kept');
    expect(risk('redirect :copy "tom@oak.example";')).toBeUndefined();
    expect(risk('redirect :copy "tom@oak.example";', 'true')).toContain('all mail leaves for another domain');
  });
  test('a year without a firing', () => {
    const rule = 'if header :contains "subject" "oak" { fileinto "Oak"; }';
    expect(messagesOf('idle', rule, [{ subject: 'oak', year: 2024 }, { year: 2026 }])).toEqual([[0]]);
    expect(messagesOf('idle', rule, [{ subject: 'oak', year: 2026 }, { year: 2026 }])).toEqual([]);
    expect(messagesOf('idle', rule, [{}])).toEqual([[]]);
    expect(messagesOf('idle', rule, [])).toEqual([]);
  });
  test('a script block that would act on mail can be idle, one that only edits what others see cannot', () => {
    const loop = 'foreverypart { if header :mime :contains "content-type" "pdf" { fileinto "Plans"; } }';
    expect(messagesOf('idle', loop, [{}])).toEqual([[]]);
    expect(messagesOf('idle', loop, [{ fields: ['Content-Type: application/pdf'] }])).toEqual([]);
    expect(messagesOf('idle', 'addheader "X-Seen" "yes";', [{}])).toEqual([]);
  });
  test('rules behind an edited header have findings of their own', () => {
    const rules =
      'addheader "X-Seen" "yes";\n# Seen\nif header :is "X-Seen" "yes" { discard; }\n# Never\nif header :is "X-Seen" "no" { keep; }';
    expect(found(rules, [{}]).map(({ kind, rules: ids }) => [kind, ...ids])).toEqual(
      expect.arrayContaining([
        ['loss', 'r2'],
        ['idle', 'r3'],
      ]),
    );
  });
  test('folders are told apart only where there are several', () => {
    const rule = 'if header :contains "subject" "oak" { fileinto "Oak"; }';
    expect(messagesOf('missing-folder', rule, [{ subject: 'oak' }])).toEqual([]);
    expect(messagesOf('missing-folder', rule, [{ subject: 'oak' }, { folder: 'Sent' }])).toEqual([[0]]);
    expect(messagesOf('missing-folder', rule, [{ subject: 'oak' }, { folder: 'Oak' }])).toEqual([]);
    const letters = [{ subject: 'oak' }, { folder: 'Sent' }];
    expect(messagesOf('missing-folder', rule.replace('"Oak"', ':create "Oak"'), letters)).toEqual([]);
    const [finding] = found(rule, letters).filter(({ kind }) => kind === 'missing-folder');
    expect(finding?.repairs.map(({ title }) => title)).toContain('Let “Rule 1” create “Oak” if missing');
  });
});

describe('mail that the user sent', () => {
  const oak = 'if header :contains "subject" "oak" { discard; }';
  const sent = { from: `Me <${ME}>`, to: 'Tom Fenn <tom@oak.example>', subject: 'oak' };
  const arrived = { ...sent, fields: ['Received: from a.example by b.example; Thu, 1 Jan 2026 10:00:00 +0000'] };

  test('is lost by no rule, but what came from an own address is incoming', () => {
    expect(messagesOf('loss', oak, [sent, { subject: 'oak' }, arrived])).toEqual([[1, 2]]);
  });
  test('tells whom the user writes to all the same', () => {
    expect(
      messagesOf('unprotected', oak, [sent, { from: 'tom@oak.example', to: 'all@x.example', subject: 'oak' }]),
    ).toEqual([[1]]);
    expect(
      messagesOf('unprotected', oak, [arrived, { from: 'tom@oak.example', to: 'all@x.example', subject: 'oak' }]),
    ).toEqual([]);
  });
  test('makes no rule a used one', () => {
    expect(messagesOf('idle', oak, [sent, {}])).toEqual([[]]);
    expect(messagesOf('idle', oak, [arrived, {}])).toEqual([]);
  });
  test('refutes proofs, which speak of every message', () => {
    const both = `if allof (address "from" "${ME}", address "from" "ann@x.example") { discard; }`;
    expect(found(both, [{}]).map(({ kind }) => kind)).toContain('contradiction');
    const kinds = found(both, [{}, { ...sent, from: `${ME}, ann@x.example` }]).map(({ kind }) => kind);
    expect(kinds).not.toContain('contradiction');
  });
});

describe('a field that no stored message has', () => {
  const rule = (name: string) => `if header :contains "${name}" "yes" { fileinto "Doubtful"; }`;
  const letters = [{ fields: ['X-Spam-Status: yes', 'X-Tag: yes', 'Resent-From: a@b.example'] }];
  const claims = (name: string) => found(rule(name), letters).filter(({ kind }) => kind === 'too-narrow');

  test('is stated if a known one differs by a letter', () => {
    const [finding] = claims('X-Spam-Statuss');
    expect(finding?.certainty).toBe('observed');
    expect(finding?.claim).toContain('x-spam-status');
    expect(finding?.repairs.map(({ title }) => title)[0]).toContain('x-spam-status');
  });

  test('is not stated if it is there, means something else, or nothing is known', () => {
    for (const name of ['x-spam-status', 'Resent-Form-Id', 'x-priority', 'resent-to'])
      expect(claims(name), name).toEqual([]);
    expect(found(rule('x-spam-statuss'), []).filter(({ kind }) => kind === 'too-narrow')).toEqual([]);
  });
});

describe('an order that an exception speaks of', () => {
  const named = (rules: string) =>
    found(rules, []).flatMap(({ kind, isNamed }) => (kind === 'order-conflict' ? [isNamed === true] : []));

  test('is told from one that no rule speaks of', () => {
    const wide =
      'if allof (header :contains "subject" "oak", not header :contains "subject" "bill") { discard; stop; }';
    const bills = 'if header :contains ["subject", "x-tag"] "Bill" { fileinto "Bills"; stop; }';
    const beams = 'if header :contains "subject" "beam" { fileinto "Beams"; stop; }';
    expect(named(`${wide}\n${bills}`)).toEqual([true]);
    expect(named(`${wide}\n${beams}`)).toEqual([false]);
  });
});

describe('a probe that is kept', () => {
  const wide = 'if header :contains "subject" "oak" { discard; stop; }';
  const rules = `${wide}\nif header :contains ["subject", "x-tag"] "beam" { fileinto "Beams"; stop; }`;
  const probe = (subject: string) =>
    maybeWitness(new TextEncoder().encode(`From: ann@x.example\nSubject: ${subject}\n\nwords\n`), ME);
  const conflicts = (subject: string) => {
    const { findings } = audited(rules, [], { probes: [probe(subject) ?? []].flat() });
    return findings.filter(({ kind }) => kind === 'order-conflict');
  };

  test('confirms what it shows', () => {
    const [finding] = conflicts('An oak beam from the yard, with a long subject');
    expect(finding && isConfirmed(finding)).toBe(true);
    expect(finding?.witness?.open).toContain('from the yard');
  });

  test('says nothing about what it does not show', () => {
    const [finding] = conflicts('Lime');
    expect(finding && isConfirmed(finding)).toBe(false);
  });

  test('is left out if it is no UTF-8', () => {
    expect(maybeWitness(Uint8Array.of(0x53, 0x3a, 0x20, 0xe9, 0x0a, 0x0a), null)).toBeNull();
  });
});

describe('mail that is redirected to where it fails', () => {
  const bounce = {
    from: 'Mail system <postmaster@home.example>',
    fields: ['Content-Type: multipart/report; boundary=b'],
  };
  const status =
    '--b\nContent-Type: message/delivery-status\n\nX: y\n\nFinal-Recipient: rfc822; old@y.example\nAction: failed\n\n--b--';
  // A field that ends the header, with the report as the body.
  const letters = [{ ...bounce, fields: [...bounce.fields, `X-End: yes\n\n${status}`] }, {}];

  test('is a risk, with the reports', () => {
    const risks = found('if header :contains "subject" "never" { redirect :copy "old@y.example"; }', letters);
    const [risk] = risks.filter(({ kind }) => kind === 'forward-risk');
    expect(risk?.messages).toEqual([0]);
    expect(risk?.claim).toContain('1 stored message reports that mail to old@y.example could not be delivered');
    expect(risk?.strength).toBeNull();
  });
});

test('an example message says which current date it needs', () => {
  const rules = [
    'if currentdate :is "date" "2031-05-01" { fileinto "May"; stop; }',
    'if header :contains "subject" "oak" { fileinto "Oak"; stop; }',
  ];
  const [conflict] = found(rules.join('\n'), []).filter(({ kind }) => kind === 'order-conflict');
  expect(new Date(conflict?.witness?.now ?? 0).toISOString()).toMatch(/^2031-05-01/);
  const [plain] = found(rules[1]?.repeat(2).replace('oak', 'ash').replace('Oak', 'Ash') ?? '', []).filter(
    ({ kind }) => kind === 'order-conflict',
  );
  expect(plain?.witness).not.toBeNull();
  expect(plain?.witness?.now).toBeUndefined();
});
