import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { describe, expect, test } from 'vitest';
import { cli, cliOn, folder, root, write } from '../../test/cli';
import { FROM, LINES, MBOX, ONE, parsed, RULES, THREE, TWO } from '../../test/cli-data';
import { given } from '../../test/given';
import { ownJson } from '../core/text/lookup';

/** The end of an error of the command line: where to read on. */
const see = (verb: string): string => `see npm run --silent cli -- ${verb} --help`;

describe('check', () => {
  test('is silent on a valid script', () => {
    expect(cli('check', RULES)).toEqual({ status: 0, out: '', err: '' });
  });
  test('names the file as it was given, with line and column', () => {
    write('bad.sieve', 'keep;\n  kep;\n');
    expect(cli('check', 'bad.sieve')).toEqual({
      status: 1,
      out: '',
      err: 'bad.sieve:2:3: unknown command "kep"; did you mean "keep"? (RFC 5228 section 2.9)\n',
    });
  });
  test('text that is no UTF-8 is a fault with a place', () => {
    writeFileSync(join(folder, 'latin.sieve'), Buffer.from([0x23, 0x20, 0xfc, 0x0a]));
    expect(cli('check', 'latin.sieve').err).toBe('latin.sieve:1:3: byte 3 is not UTF-8 text (RFC 5228 section 2.1)\n');
  });
  test.each([
    [['check', 'absent.sieve'], 'absent.sieve: the file does not exist; check the path\n'],
    [['check', folder], `${folder}: this is a folder; name a file in it\n`],
    [['check'], `--rules is missing: name at least one file; ${see('check')}\n`],
  ])('%j', (args, err) => expect(cli(...args)).toEqual({ status: 1, out: '', err }));
});

describe('simulate', () => {
  test('one line for each message of an mbox, in the order of the file', () => {
    const { status, out, err } = cli('simulate', '--rules', RULES, '--messages', MBOX, '--me', 'me@mill.example');
    expect([status, err]).toEqual([0, '']);
    expect(parsed(out)).toEqual(LINES);
  });
  test('without --me there is no envelope recipient', () => {
    const { out } = cli('simulate', '--rules', RULES, '--messages', MBOX);
    expect(parsed(out)[2]).toMatchObject({ fired: [], redirects: [] });
  });
  test('an .eml file and a Maildir folder', () => {
    const eml = write('one.eml', ONE);
    expect(parsed(cli('simulate', '--rules', RULES, '--messages', eml).out)).toEqual(LINES.slice(0, 1));
    write('maildir/new/3', THREE);
    write('maildir/cur/1:2,S', ONE);
    write('maildir/cur/2:2,', TWO);
    const { out } = cli('simulate', '--rules', RULES, '--messages', join(folder, 'maildir'), '--me', 'me@mill.example');
    expect(parsed(out)).toEqual(LINES);
  });
  test('more messages than are run at once, from standard input', () => {
    const [first, second] = [FROM, FROM].map(
      (from, at) => `${from}\nMessage-ID: <${at}@mill.example>\nSubject: oak ${at}\n\nwords\n\n`,
    );
    const rules = write('ones.sieve', '# Ones\nif header :contains "subject" "oak 1" { discard; }\n');
    const { status, out } = cliOn(`${first}${second}`.repeat(6000), 'simulate', '--rules', rules, '--messages', '-');
    const lines = parsed(out);
    expect([status, lines.length]).toEqual([0, 12_000]);
    const wrong = lines.filter(
      ({ index, messageId, discarded }, at) =>
        index !== at || messageId !== `<${at % 2}@mill.example>` || discarded !== (at % 2 === 1),
    );
    expect(wrong).toEqual([]);
  });
  test('several rules files as one chain, over a compressed mbox', () => {
    const packed = join(folder, 'mail.mbox.gz');
    writeFileSync(packed, gzipSync(readFileSync(MBOX)));
    const more = write(
      'more.sieve',
      'require "fileinto";\n# Letters\nif header :is "subject" "letter" { fileinto "Letters"; }\n',
    );
    const { status, out } = cli('simulate', '--rules', RULES, '--rules', more, '--messages', packed);
    expect(status).toBe(0);
    expect(parsed(out).map((line) => line.fired)).toEqual([['Oak'], ['Rule 2'], ['Letters']]);
    writeFileSync(packed, gzipSync(readFileSync(MBOX)).subarray(0, 40));
    expect(cli('simulate', '--rules', RULES, '--messages', packed).err).toContain('the gzip archive is damaged');
  });
  test.each([
    [['--rules', RULES], `--messages is missing; ${see('simulate')}\n`],
    [['--rules', RULES, '--messages', 'absent.mbox'], 'absent.mbox: the file does not exist; check the path\n'],
    [
      ['--rules', RULES, '--messages', MBOX, '--me', 'nobody'],
      `--me is not a single complete address; ${see('simulate')}\n`,
    ],
    [
      ['--rules', RULES, '--messages', MBOX, '--now', 'today'],
      `--now is not a date and time by ISO 8601, such as 2026-01-31T12:00:00Z; ${see('simulate')}\n`,
    ],
  ])('%j', (args, err) => expect(cli('simulate', ...args)).toEqual({ status: 1, out: '', err }));
  test('--now is the current date that rules see', () => {
    const rules = write('date.sieve', 'require "date";\nif currentdate "year" "2031" { discard; }');
    const dropped = (now: string) => {
      const { out } = cli('simulate', '--rules', rules, '--messages', MBOX, '--now', now);
      return given(parsed(out)[0]).discarded;
    };
    expect(dropped('2031-05-01T00:00:00Z')).toBe(true);
    expect(dropped('2030-05-01T00:00:00+01:00')).toBe(false);
  });
  test('a script that a server would refuse is not simulated', () => {
    const { status, out, err } = cli('simulate', '--rules', write('x.sieve', 'fileinto "x";'), '--messages', MBOX);
    expect([status, out]).toEqual([1, '']);
    expect(err).toContain('x.sieve:1:1: fileinto needs: require "fileinto";');
  });
});

describe('audit', () => {
  test('findings and the flow of the rules, as one JSON object', () => {
    const { status, out } = cli('audit', '--rules', RULES, '--messages', MBOX, '--me', 'me@mill.example');
    expect(status).toBe(0);
    const { findings, rules } = ownJson<{ findings: { kind: string }[]; rules: unknown[] }>(out);
    expect(rules).toEqual([
      { name: 'Oak', reached: 3, held: 1, fired: 1, stopped: 1 },
      { name: 'Rule 2', reached: 2, held: 2, fired: 1, stopped: 0 },
      { name: 'Rule 3', reached: 1, held: 3, fired: 1, stopped: 0 },
    ]);
    expect(findings).toContainEqual({
      kind: 'order-conflict',
      rules: ['Rule 2', 'Rule 3'],
      certainty: 'shown',
      assumes: [],
      confirmed: true,
      messages: [1],
      witness: TWO,
      summary: expect.any(String),
    });
    const kinds = findings.map(({ kind }) => kind);
    expect(kinds.filter((kind) => kind === 'overlap').length).toBe(3);
    for (const kind of ['loss', 'order-conflict']) expect(kinds).toContain(kind);
  });

  test('what can happen is shown by a message that does it, when no stored one does', () => {
    const { findings } = ownJson<{
      findings: { kind: string; rules: string[]; messages: number[]; certainty: string; witness: string | null }[];
    }>(cli('audit', '--rules', RULES, '--all').out);
    const overlap = findings.find(({ kind, rules }) => kind === 'overlap' && rules.join() === 'Oak,Rule 2');
    expect(overlap).toMatchObject({ certainty: 'shown', messages: [] });
    const witness = write('witness.eml', overlap?.witness ?? '');
    const [line] = cli('simulate', '--rules', RULES, '--messages', witness).out.trim().split('\n');
    expect(JSON.parse(line ?? '{}').fired).toContain('Oak');
    expect(findings.filter(({ certainty, witness: made }) => certainty === 'shown' && made === null)).toEqual([]);
  });

  test('without mail, findings that are possible only are counted, and printed if asked for', () => {
    const { out, err } = cli('audit', '--rules', RULES);
    const few = ownJson<{ findings: { confirmed: boolean }[]; possibleOnly: number }>(out);
    const all = ownJson<typeof few>(cli('audit', '--rules', RULES, '--all').out);
    expect(few.findings.every(({ confirmed }) => confirmed)).toBe(true);
    expect(few.possibleOnly).toBeGreaterThan(0);
    expect(all.findings.length).toBe(few.findings.length + few.possibleOnly);
    expect(err).toBe(`${few.possibleOnly} findings that are possible only are left out; --all prints them\n`);
  });

  test('a proof names what it assumes about messages', () => {
    const senders = write(
      'senders.sieve',
      `require "fileinto";
# Two
if allof (address "from" "a@mill.example", address "from" "b@mill.example") { fileinto "A"; }
# None
if not exists "from" { fileinto "B"; }
`,
    );
    const { findings } = ownJson<{ findings: object[] }>(cli('audit', '--rules', senders).out);
    expect(findings).toEqual([
      expect.objectContaining({ kind: 'contradiction', rules: ['Two'], assumes: ['one-from'], confirmed: true }),
    ]);
  });

  test('without mail, what can never happen is found all the same, and proved', () => {
    const never = write(
      'never.sieve',
      `require "fileinto";
# Domain
if address :domain :is "from" "oak.example" { fileinto "Oak"; stop; }
# Address
if address :is "from" "sales@oak.example" { fileinto "Sales"; }
# Nothing
if allof (header :is "subject" "oak", not header :contains "subject" "a") { fileinto "Nothing"; }
`,
    );
    const { findings } = JSON.parse(cli('audit', '--rules', never).out);
    expect(findings.filter(({ kind }: { kind: string }) => /shadowed|contradiction/.test(kind))).toEqual([
      expect.objectContaining({ kind: 'shadowed', rules: ['Address', 'Domain'], certainty: 'proved', messages: [] }),
      expect.objectContaining({ kind: 'contradiction', rules: ['Nothing'], certainty: 'proved', witness: null }),
    ]);
  });
});

describe('compare', () => {
  const swapped = write(
    'swapped.sieve',
    `require ["fileinto", "imap4flags", "envelope"];
if header :contains "subject" "drop" { discard; }
elsif envelope :is "to" "me@mill.example" { redirect "you@mill.example"; keep; }
# Oak
if address :domain :is "from" "oak.example" { addflag "\\\\Seen"; fileinto "Oak"; stop; }
`,
  );

  test('the same rules, written otherwise', () => {
    const other = write(
      'other.sieve',
      `require ["fileinto", "imap4flags", "envelope"];
if address :is :domain "FROM" ["oak.example", "OAK.example"] { addflag "\\\\seen"; fileinto "Oak"; stop; }
if header :matches "Subject" "*DROP*" { discard; }
elsif envelope :is :all "to" "me@mill.example" { redirect "you@mill.example"; keep; }
`,
    );
    const { status, out } = cli('compare', '--rules', RULES, '--with', other);
    expect([status, JSON.parse(out)]).toEqual([
      0,
      { verdict: 'equivalent', assumes: [], witness: null, now: null, messages: [] },
    ]);
  });

  test('a witness of a difference has another fate under the other rules', () => {
    const { status, out } = cli('compare', '--rules', RULES, '--with', swapped, '--me', 'me@mill.example');
    expect(status).toBe(1);
    const { verdict, witness } = JSON.parse(out);
    expect(verdict).toBe('different');
    const file = write('witness.eml', witness);
    const [first, second] = [RULES, swapped].map((rules) => {
      return cli('simulate', '--rules', rules, '--messages', file, '--me', 'me@mill.example').out;
    });
    const fateIn = (line: string | undefined) => ({ ...JSON.parse(line ?? ''), fired: [] });
    expect(fateIn(first)).not.toEqual(fateIn(second));
  });

  test('the messages at hand that are treated differently', () => {
    const mail = write(
      'compared.mbox',
      [ONE, TWO, ONE.replace('drop', 'planks')].map((message) => `${FROM}\n${message}\n`).join(''),
    );
    const args = ['compare', '--rules', RULES, '--with', swapped, '--messages', mail, '--me', 'me@mill.example'];
    expect(JSON.parse(cli(...args).out)).toMatchObject({ verdict: 'different', messages: [2] });
  });

  test('both sides are needed', () => {
    expect(cli('compare', '--rules', RULES)).toMatchObject({
      status: 1,
      err: `--with is missing; ${see('compare')}\n`,
    });
  });
});

test('an unknown verb is told, with what there is', () => {
  const { status, err } = cli('toString');
  expect(status).toBe(1);
  expect(err).toContain('"toString" is not a verb');
});

describe('help', () => {
  test('is told on standard output, of all verbs or of one', () => {
    const all = cli('--help');
    expect([all.status, all.err]).toEqual([0, '']);
    for (const verb of ['check', 'simulate', 'audit', 'compare', 'convert']) {
      expect(all.out).toContain(`\n  ${verb} `);
      const one = cli(verb, '--help');
      expect([one.status, one.err]).toEqual([0, '']);
      expect(one.out).toContain(`-- ${verb} `);
    }
    expect(cli('simulate', '--help').out).not.toContain('-- audit ');
  });
  test('so is the version', () => {
    const { version } = ownJson<{ version: string }>(readFileSync(join(root, 'package.json'), 'utf8'));
    expect(cli('--version')).toEqual({ status: 0, out: `${version}\n`, err: '' });
  });
});

describe('standard input', () => {
  test('may be rules of any form, or messages', () => {
    expect(cliOn('keep;\n', 'check', '-')).toEqual({ status: 0, out: '', err: '' });
    expect(cliOn('kep;\n', 'check', '-').err).toContain('-:1:1: unknown command "kep"');
    const json = cli('convert', '--rules', RULES, '--to', 'json').out;
    expect(cliOn(json, 'check', '--rules', '-').status).toBe(0);
    const sheet = cli('convert', '--rules', RULES, '--to', 'sheet').out;
    expect(cliOn(sheet, 'check', '-')).toEqual({ status: 0, out: '', err: '' });
    const { out } = cliOn(
      readFileSync(MBOX, 'utf8'),
      'simulate',
      '--rules',
      RULES,
      '--messages',
      '-',
      '--me',
      'me@mill.example',
    );
    expect(parsed(out)).toEqual(LINES);
    expect(parsed(cliOn(ONE, 'simulate', '--rules', RULES, '--messages', '-').out)).toEqual(LINES.slice(0, 1));
  });
});

describe('several rules files', () => {
  const first = write('first.sieve', 'require "editheader";\n# Practice\naddheader "X-Practice" "yes";\n');
  const second = write(
    'second.sieve',
    'require ["fileinto", "variables"];\n# Seen\nif header :is "X-Practice" "yes" { fileinto "Seen"; stop; }\n',
  );
  test('are one chain to every verb', () => {
    expect(cli('check', first, second).status).toBe(0);
    expect(cli('check', '--rules', first, '--rules', second, '--now', '2026-01-01T00:00:00Z').status).toBe(0);
    const { out } = cli('simulate', '--rules', first, '--rules', second, '--messages', MBOX);
    for (const line of parsed(out)) {
      expect(line).toMatchObject({ deliveries: [{ folder: 'Seen' }], fired: ['Practice', 'Seen'] });
    }
    const audited = ownJson<{ rules: { name: string; fired: number }[] }>(
      cli('audit', '--rules', first, '--rules', second, '--messages', MBOX).out,
    );
    expect(audited.rules.map(({ name, fired }) => [name, fired])).toEqual([
      ['Practice', 3],
      ['Seen', 3],
    ]);
    const alone = cli('compare', '--rules', second, '--with', first, '--with', second, '--messages', MBOX);
    expect(JSON.parse(alone.out)).toMatchObject({ verdict: 'different', messages: [0, 1, 2] });
    expect(cli('convert', '--rules', first, '--to', 'sieve', '--target', 'fileinto').err).toContain('"loss"');
  });
});

describe('mail in a folder', () => {
  test('mbox files, Maildir folders within, archives and single messages, in the order of their paths; the rest is told', () => {
    write('tree/a.mbox', `${FROM}\n${ONE}\n${FROM}\n${TWO}\n`);
    write('tree/b/.Archive.2020/cur/1:2,S', THREE);
    write('tree/b/.Archive.2020/tmp/2', THREE);
    write('tree/c.eml', TWO);
    writeFileSync(join(folder, 'tree', 'd.mbox.gz'), gzipSync(`${FROM}\n${ONE}\n`));
    write('tree/notes.bin', '\u0001\u0002 no mail');
    const { status, out, err } = cli('simulate', '--rules', RULES, '--messages', 'tree');
    expect(status).toBe(0);
    expect(parsed(out).map((line) => line.messageId)).toEqual(['<1@oak.example>', null, null, null, '<1@oak.example>']);
    expect(err).toBe(
      'tree/b/.Archive.2020/tmp/2: skipped: an unfinished delivery\ntree/notes.bin: skipped: not mail\n',
    );
  });
  test('a single message is read to the octet, whatever lines stand in it', () => {
    const body = 'Subject: one\n\nFrom here on it is quiet.\nSo it was.\n>From there too.\n\n';
    const found = ownJson<{ rules: { reached: number }[] }>(
      cli('audit', '--rules', write('all.sieve', '# All\ndiscard;\n'), '--messages', write('one.txt', body)).out,
    );
    expect(found.rules[0]?.reached).toBe(1);
  });
});

describe('the time that rules see', () => {
  const july = write(
    'july.sieve',
    'require ["date", "relational", "fileinto", "vacation"];\n# July\nif allof (currentdate :value "ge" "date" "2025-07-01", currentdate :value "le" "date" "2025-07-14") { fileinto "July"; }\n',
  );
  const at = (received: string, date = 'Wed, 1 Jan 2020 10:00:00 +0000') =>
    `Received: from a.example by b.example; ${received}\nReceived: from c.example by a.example; Tue, 1 Jan 2019 10:00:00 +0000\nDate: ${date}\nSubject: x\n\nx\n`;
  const mail = write(
    'july.mbox',
    [
      at('Tue, 8 Jul 2025 10:00:00 +0200'),
      at('Tue, 8 Jul 2026 10:00:00 +0200'),
      'Date: Tue, 8 Jul 2025 10:00:00 +0200\nSubject: y\n\ny\n',
    ]
      .map((text) => `${FROM}\n${text}\n`)
      .join(''),
  );
  const fired = (...more: string[]) =>
    parsed(cli('simulate', '--rules', july, '--messages', mail, ...more).out).map((line) => line.fired.length);

  test('is when each message arrived, by its newest Received field, else its Date; --now sets another', () => {
    expect(fired()).toEqual([1, 0, 1]);
    expect(fired('--now', '2025-07-02T00:00:00Z')).toEqual([1, 1, 1]);
    expect(fired('--now', '2027-07-02T00:00:00Z')).toEqual([0, 0, 0]);
  });

  test('a rule of last July is not idle', () => {
    const findings = (...more: string[]) =>
      ownJson<{ findings: { kind: string }[] }>(cli('audit', '--rules', july, '--messages', mail, ...more).out)
        .findings.map(({ kind }) => kind)
        .filter((kind) => kind === 'idle');
    expect(findings()).toEqual([]);
    expect(findings('--now', '2027-07-02T00:00:00Z')).toEqual(['idle']);
  });

  test('to compare, the time may be any: a difference tells which one it needs', () => {
    const never = write('never.sieve', 'keep;\n');
    const compared = (...more: string[]) =>
      ownJson<{ verdict: string; now: string; witness: string }>(
        cli('compare', '--rules', july, '--with', never, ...more).out,
      );
    const { verdict, now, witness } = compared();
    expect(verdict).toBe('different');
    expect(now >= '2025-07-01' && now < '2025-07-15').toBe(true);
    const shown = parsed(
      cli('simulate', '--rules', july, '--messages', write('witness.eml', witness), '--now', now).out,
    );
    expect(shown).toMatchObject([{ fired: ['July'] }]);
    expect(parsed(cli('simulate', '--rules', july, '--messages', write('witness.eml', witness)).out)).toMatchObject([
      { fired: ['July'] },
    ]);
    expect(compared('--now', '2027-07-02T00:00:00Z')).toMatchObject({ verdict: 'equivalent', now: null });
    expect(compared('--now', '2025-07-02T00:00:00Z')).toMatchObject({ verdict: 'different' });
  });
});

describe('the check for one’s own CI in docs/command-line.md', () => {
  const [, script = ''] =
    /## In your own CI[\s\S]*?```sh\n([\s\S]*?)```/.exec(readFileSync(join(root, 'docs/command-line.md'), 'utf8')) ??
    [];
  const checked = (inUse: string, next: string) => {
    write('ci/in-use.sieve', inUse);
    write('ci/new.sieve', next);
    write('ci/sample.mbox', `${FROM}\n${ONE}\n`);
    const calls = script.replaceAll(
      'npm run --silent cli --',
      `"${process.execPath}" "${join(root, 'scripts/cli.mjs')}"`,
    );
    const cwd = join(folder, 'ci');
    return spawnSync('sh', ['-c', calls], { cwd, env: { ...process.env, INIT_CWD: cwd }, encoding: 'utf8' });
  };
  const FILED = 'require "fileinto";\nif header :contains "subject" "oak" { fileinto "Oak"; }\n';

  test('passes where the new script does the same', () => {
    expect(script).toContain('compare');
    expect(checked(FILED, FILED.replace('if', '# Oak\nif')).status).toBe(0);
    expect(readFileSync(join(folder, 'ci/for-server.sieve'), 'utf8')).toContain('fileinto "Oak"');
  });
  test.each([
    ['is not valid', FILED.replace('fileinto "Oak"', 'fileinto')],
    ['treats some message differently', FILED.replace('"oak"', '"elm"')],
  ])('fails where the new script %s', (_, next) => {
    expect(checked(FILED, next).status).not.toBe(0);
  });
  test('fails where the server supports less than the script needs', () => {
    const replying = `require "vacation";\n${FILED}vacation "Away.";\n`.replace('require "fileinto";\n', '');
    const both = replying.replace('require "vacation"', 'require ["vacation", "fileinto"]');
    const { status, stdout } = checked(both, both);
    expect(status).toBe(1);
    expect(stdout).toContain('vacation');
  });
});
