import { describe, expect, test } from 'vitest';
import { check } from '../../check';
import { holds } from '../../conformance/harness';
import { parse } from '../../parse';
import { capabilities, commands, tests } from '../table';
import { body } from './body';
import { convert } from './convert';
import { date } from './date';
import { duplicate } from './duplicate';
import { editheader } from './editheader';
import { enotify } from './enotify';
import { environment } from './environment';
import type { Extension } from './extension';
import { extlists } from './extlists';
import { ihave } from './ihave';
import { include } from './include';
import { mailbox } from './mailbox';
import { mime } from './mime';
import { reject } from './reject';
import { spamtest } from './spamtest';
import { specialUse } from './specialuse';
import { vacation } from './vacation';
import { variables } from './variables';

/** Each extension with what its standard says it brings (from memory, by the section that each definition names). */
const EXTENSIONS: readonly (readonly [Extension, { capabilities: string[]; commands?: string[]; tests?: string[] }])[] =
  [
    [body, { capabilities: ['body'], tests: ['body'] }],
    [convert, { capabilities: ['convert'], commands: ['convert'], tests: ['convert'] }],
    [date, { capabilities: ['date', 'index'], tests: ['date', 'currentdate'] }],
    [duplicate, { capabilities: ['duplicate'], tests: ['duplicate'] }],
    [editheader, { capabilities: ['editheader'], commands: ['addheader', 'deleteheader'] }],
    [
      enotify,
      { capabilities: ['enotify'], commands: ['notify'], tests: ['notify_method_capability', 'valid_notify_method'] },
    ],
    [environment, { capabilities: ['environment'], tests: ['environment'] }],
    [extlists, { capabilities: ['extlists'], tests: ['valid_ext_list'] }],
    [ihave, { capabilities: ['ihave'], commands: ['error'], tests: ['ihave'] }],
    [include, { capabilities: ['include'], commands: ['include', 'return', 'global'] }],
    [
      mailbox,
      {
        capabilities: ['mailbox', 'mboxmetadata', 'servermetadata'],
        tests: ['mailboxexists', 'metadata', 'metadataexists', 'servermetadata', 'servermetadataexists'],
      },
    ],
    [
      mime,
      {
        capabilities: ['mime', 'foreverypart', 'replace', 'enclose', 'extracttext'],
        commands: ['foreverypart', 'break', 'replace', 'enclose', 'extracttext'],
      },
    ],
    [reject, { capabilities: ['reject', 'ereject'], commands: ['reject', 'ereject'] }],
    [spamtest, { capabilities: ['spamtest', 'spamtestplus', 'virustest'], tests: ['spamtest', 'virustest'] }],
    [specialUse, { capabilities: ['special-use'], tests: ['specialuse_exists'] }],
    [vacation, { capabilities: ['vacation', 'vacation-seconds', 'fcc'], commands: ['vacation'] }],
    [variables, { capabilities: ['variables'], commands: ['set'], tests: ['string'] }],
  ];

describe.each(EXTENSIONS.map(([extension, said]) => ({ name: said.capabilities[0] ?? '', extension, said })))(
  'the extension $name',
  ({ extension, said }) => {
    test('brings what its standard says, and stands in the table of the language', () => {
      const names = (rows: readonly { readonly name: string }[] = []) => rows.map(({ name }) => name).sort();
      expect([...extension.capabilities].sort()).toEqual([...said.capabilities].sort());
      expect(names(extension.commands)).toEqual([...(said.commands ?? [])].sort());
      expect(names(extension.tests)).toEqual([...(said.tests ?? [])].sort());
      for (const name of extension.capabilities) expect(capabilities.has(name)).toBe(true);
      for (const row of extension.commands ?? []) expect(commands.get(row.name)).toBe(row);
      for (const row of extension.tests ?? []) expect(tests.get(row.name)).toBe(row);
    });

    test('every command and test of it names its section, and needs a capability', () => {
      for (const row of [...(extension.commands ?? []), ...(extension.tests ?? [])]) {
        expect([row.name, /^(RFC \d+|draft-)/.test(row.section)]).toEqual([row.name, true]);
        expect([row.name, row.capability !== null || row.kind === 'command']).toEqual([row.name, true]);
        expect(row.about.length).toBeGreaterThan(10);
      }
    });
  },
);

describe('without what they need, they are refused', () => {
  test.each([
    ['if body :contains "a" { stop; }', 'body'],
    ['addheader "X" "a";', 'editheader'],
    ['notify "mailto:a@b.example";', 'enotify'],
    ['vacation "away";', 'vacation'],
    ['set "x" "a";', 'variables'],
    ['reject "no";', 'reject'],
    ['if spamtest :is "0" { stop; }', 'spamtest'],
  ])('%s', (source, capability) => {
    const codes = (text: string) => check(parse(text).script).map(({ code }) => code);
    expect(codes(source)).toContain('missing-require');
    expect(codes(`require "${capability}";\n${source}`)).toEqual([]);
  });
});

test('an extension is asked for as a server knows it (RFC 5463 section 4)', () => {
  const message = 'From: a@b.example\n\n';
  const told = ['ihave', 'fileinto', 'no-such-thing'].map((name) => holds(`ihave "${name}"`, message));
  expect(told).toEqual([true, true, false]);
});
