import { describe, expect, test } from 'vitest';
import type { DiagnosticCode } from '../diagnostics';
import { commands, tests } from '../language/table';
import { faultCodes } from './harness';
import { printSignature } from './signatures';

const need = (...names: string[]) => `require [${names.map((name) => `"${name}"`).join(', ')}];\n`;

describe('accepted', () => {
  test.each([
    ['RFC 5228 2.4.2.4', need('encoded-character') + 'if header "a" "${hex:100}" { keep; }'],
    ['RFC 5228 3.2', 'require "fileinto"; require ["copy"]; fileinto :copy "a";'],
    ['RFC 5228 2.7.3', need('comparator-i;octet') + 'if header :comparator "i;octet" "a" "b" { keep; }'],
    ['RFC 5228 8.2', 'if true { }'],
    ['RFC 5228 2.6', 'if header :matches :comparator "i;octet" "a" "b" { keep; }'],
    [
      'RFC 5230 4',
      need('vacation') +
        'vacation :mime :days 7 :addresses ["a@x.example"] :handle "h" text:\nContent-Type: text/plain\n\naway\n.\n;',
    ],
    ['RFC 6131 2', need('vacation-seconds') + 'vacation :seconds 1800 "away";'],
    [
      'RFC 5235 2',
      need('spamtestplus', 'relational', 'comparator-i;ascii-numeric') +
        'if spamtest :percent :value "ge" :comparator "i;ascii-numeric" "50" { keep; }',
    ],
    ['RFC 5229 4', need('variables') + 'set :lower :upperfirst "name" "Ken";'],
    ['RFC 5293 4', need('editheader') + 'addheader "X-Sieve" "yes";'],
    ['RFC 5463 4', need('ihave') + 'if ihave "fileinto" { fileinto "a"; }'],
    ['RFC 5703 3', need('foreverypart', 'mime') + 'foreverypart { if header :mime "content-type" "x" { break; } }'],
    ['RFC 6558 2', need('convert') + 'if convert "a/b" "c/d" ["x"] { keep; }'],
    ['RFC 6009 3', need('envelope', 'envelope-dsn') + 'if envelope "notify" "NEVER" { keep; }'],
    ['RFC 6609 3', need('include') + 'global "a"; include :personal :once "x"; return;'],
    ['RFC 8580 3', need('vacation', 'fcc', 'mailbox') + 'vacation :fcc "Sent" :create "away";'],
    [
      'RFC 6009 6',
      need('redirect-deliverby') + 'redirect :bytimerelative 600 :bymode "notify" :bytrace "a@x.example";',
    ],
  ])('%s: %s', (_section, script) => expect(faultCodes(script)).toEqual([]));
});

describe('refused', () => {
  test.each<[string, string, DiagnosticCode[]]>([
    [
      'RFC 5228 2.4.2.4',
      need('encoded-character') + 'if header "a" "${unicode:110000}" { keep; }',
      ['bad-encoded-character'],
    ],
    [
      'RFC 5228 2.4.2.4',
      need('encoded-character') + 'if header "a" "${unicode:d800}" { keep; }',
      ['bad-encoded-character'],
    ],
    ['RFC 5228 2.7.3', 'if header :comparator "i;ascii-numeric" "a" "1" { keep; }', ['missing-require']],
    [
      'RFC 4790 4.2',
      need('comparator-i;ascii-numeric') + 'if header :contains :comparator "i;ascii-numeric" "a" "1" { keep; }',
      ['comparator-lacks'],
    ],
    ['RFC 5231 4', need('relational') + 'if header :value "xx" "a" "1" { keep; }', ['bad-value']],
    ['RFC 5231 4', need('relational') + 'if header :value "a" "1" { keep; }', ['argument-missing']],
    ['RFC 5231 4', 'if header :count "eq" "a" "1" { keep; }', ['missing-require']],
    ['RFC 5232 3', need('imap4flags') + 'addflag "x" "a";', ['missing-require']],
    ['RFC 5228 8.2', 'if header "a" [] { keep; }', ['empty-list']],
    ['RFC 5228 8.2', 'require [];', ['empty-list']],
    ['RFC 5229 3', need('variables') + 'set "foo.bar" "x";', ['unknown-namespace']],
    ['RFC 5229 3', need('variables', 'fileinto') + 'fileinto "${foo.bar}";', ['unknown-namespace']],
    ['RFC 6609 3.4.2', need('variables') + 'set "global.x" "x";', ['missing-require']],
    ['RFC 6609 3.4.2', need('variables', 'fileinto') + 'fileinto "a${global.x}";', ['missing-require']],
    ['RFC 5229 4', need('variables') + 'set "bad name" "x";', ['bad-value']],
    ['RFC 5229 4', need('variables') + 'set :lower :upper "a" "x";', ['tag-twice']],
    ['RFC 5229 4', need('variables') + 'set "a";', ['argument-missing']],
    ['RFC 5230 4', need('vacation') + 'vacation :seconds 3 "x";', ['missing-require']],
    ['RFC 5230 4', need('vacation') + 'vacation :days "3" "x";', ['argument-missing', 'argument-extra']],
    ['RFC 5230 4.7', need('vacation') + 'vacation "a"; vacation "b";', ['twice-in-script']],
    ['RFC 5230 4.4', need('vacation') + 'vacation :from "nobody" "a";', ['bad-address']],
    ['RFC 5233 4', 'if address :user "to" "a" { keep; }', ['missing-require']],
    ['RFC 5260 4', need('date') + 'if date "date" "century" "20" { keep; }', ['bad-value']],
    ['RFC 5260 4', need('date') + 'if date :zone "CET" "date" "year" "2026" { keep; }', ['bad-value']],
    ['RFC 5260 6', 'if header :index 1 "a" "b" { keep; }', ['missing-require']],
    ['RFC 5260 6', need('index') + 'if header :last "a" "b" { keep; }', ['tag-beside']],
    ['RFC 5293 5', need('editheader') + 'deleteheader :last "a";', ['tag-beside']],
    ['RFC 5703 4', need('mime') + 'if header :anychild "a" "b" { keep; }', ['tag-beside']],
    ['RFC 5703 4', need('mime') + 'if header :subtype "a" "b" { keep; }', ['tag-beside']],
    ['RFC 6009 3', need('envelope') + 'if envelope ["from", "orcpt"] "a" { keep; }', ['missing-require']],
    ['RFC 5228 5.4', need('envelope') + 'if envelope "subject" "a" { keep; }', ['bad-envelope-part']],
    ['RFC 6009 6', need('redirect-deliverby') + 'redirect :bytrace "a@x.example";', ['tag-beside']],
    ['RFC 8580 3', need('vacation', 'fcc', 'mailbox') + 'vacation :create "away";', ['tag-beside']],
    ['RFC 5293 4', need('editheader') + 'addheader "bad name" "x";', ['bad-header-name']],
    ['RFC 5429 2', need('reject', 'fileinto') + 'reject "no"; fileinto "a";', ['conflicting-actions']],
    ['RFC 5429 2', need('ereject') + 'if true { ereject "no"; keep; }', ['conflicting-actions']],
    ['RFC 5429 2', need('reject', 'vacation') + 'vacation "x"; reject "no";', ['conflicting-actions']],
    ['RFC 5435 3', need('enotify') + 'notify "no uri";', ['bad-value']],
    ['RFC 5435 3.4', need('enotify') + 'notify :importance "4" "mailto:a@x.example";', ['bad-value']],
    ['RFC 5703 3', need('foreverypart') + 'break;', ['outside']],
    ['RFC 5703 4', 'if header :mime "a" "b" { keep; }', ['missing-require']],
    ['RFC 6009 5', need('redirect-dsn') + 'redirect :ret "ALL" "a@x.example";', ['bad-value']],
    ['RFC 6134 2.2', 'if header :list "a" "b" { keep; }', ['missing-require']],
    ['RFC 6609 3.1', need('include') + 'include "";', ['bad-value']],
    ['RFC 7352 3', need('duplicate') + 'if duplicate :header "a" :uniqueid "b" { keep; }', ['tag-twice']],
    ['RFC 8579 4', need('fileinto') + 'fileinto :specialuse "\\\\Junk" "a";', ['missing-require']],
    ['draft-regex', need('regex') + 'if header :regex "a" "(" { keep; }', ['bad-regex']],
    // What looks like a reference is none where variables are not required.
    ['draft-regex', need('regex') + 'if header :regex "a" "${x}" { keep; }', ['bad-regex']],
    ['RFC 5228 2.4.2.3', 'redirect "${to}";', ['bad-address']],
    ['draft-regex', need('regex') + 'if header :regex "a" "(a)\\\\1" { keep; }', ['bad-regex']],
    ['RFC 5228 2.10.5', 'require "vnd.none"; keep;', ['unknown-capability']],
  ])('%s: %s', (_section, script, codes) => expect(faultCodes(script)).toEqual(codes));
});

describe('every row of the table', () => {
  const rows = [...commands.values(), ...tests.values()].filter(({ name }) => !/^(require|elsif|else|if)$/.test(name));

  test.each(rows.map((row) => [row.name, row] as const))('%s is accepted with all it needs', (_name, row) => {
    expect(faultCodes(printSignature(row, 'whole'))).toEqual([]);
  });

  test.each(rows.filter(({ capability }) => capability !== null).map((row) => [row.name, row] as const))(
    '%s is refused without its capability',
    (_name, row) => expect(faultCodes(printSignature(row, 'no capability'))).toContain('missing-require'),
  );

  test.each(
    rows
      .filter(({ positional }) => positional.some(({ optional }) => !optional))
      .map((row) => [row.name, row] as const),
  )('%s is refused without its arguments', (_name, row) =>
    expect(faultCodes(printSignature(row, 'no arguments'))).toContain('argument-missing'),
  );

  test.each(rows.map((row) => [row.name, row] as const))('%s is refused with a tag it does not know', (_name, row) => {
    expect(faultCodes(printSignature(row, 'unknown tag'))).toContain('unknown-tag');
  });

  test.each(rows.map((row) => [row.name, row] as const))('%s says where it is defined', (_name, row) => {
    expect(row.section).toMatch(/^RFC \d{4} section [\d.]+$/);
  });
});
