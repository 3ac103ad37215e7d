import { describe, expect, test } from 'vitest';
import { chainFromSieve } from '../rules/from-sieve';
import { faultsOfNames, foldersNamed, likelyThere, NamesBack, nameThere, SAME_NAMES } from './folder-names';
import { prepareScript } from './prepare';
import { DEFAULT_CHOICES } from './rewrite';
import { EVERYTHING } from './target';

describe('folders under the names of the server', () => {
  test.each([
    ['Shop/Orders', {}, 'Shop/Orders'],
    ['Shop/Orders', { separator: '.' }, 'Shop.Orders'],
    ['Shop.Orders', { separator: '/' }, 'Shop/Orders'],
    ['Shop/Orders', { prefix: 'INBOX.', separator: '.' }, 'INBOX.Shop.Orders'],
    ['INBOX.Shop', { prefix: 'INBOX.' }, 'INBOX.Shop'],
    ['inbox', { prefix: 'INBOX.' }, 'inbox'],
    ['Shop/Orders', { prefix: 'INBOX.', renamed: { 'Shop/Orders': 'Bought' } }, 'Bought'],
    ['constructor', { renamed: {} }, 'constructor'],
  ] as const)('%s with %j is %s', (name, names, there) => {
    expect(nameThere(name, { ...SAME_NAMES, ...names })).toBe(there);
  });

  const chain = chainFromSieve(`require ["fileinto", "mailbox", "vacation", "fcc", "special-use"];
if mailboxexists "Shop/Orders" { fileinto "Shop/Orders"; }
if header :is "subject" "Shop/Orders" { vacation :fcc "Sent/Replies" "away"; }
if true { fileinto :specialuse "\\Archive" "Old"; keep; }
`).chain;

  test('are written wherever a rule names a folder, and nowhere else', () => {
    expect(foldersNamed(chain)).toEqual(['Old', 'Sent/Replies', 'Shop/Orders']);
    const folders = { ...SAME_NAMES, prefix: 'INBOX.', separator: '.' as const };
    const { text } = prepareScript(chain, EVERYTHING, { ...DEFAULT_CHOICES, folders });
    for (const name of [
      'mailboxexists "INBOX.Shop.Orders"',
      'fileinto "INBOX.Shop.Orders"',
      ':fcc "INBOX.Sent.Replies"',
    ])
      expect(text).toContain(name);
    expect(text).toContain('header :is "subject" "Shop/Orders"');
    expect(text).toContain('"INBOX.Old"');
  });

  test('are written in script blocks too, but for names that variables make', () => {
    const blocks = chainFromSieve(`require ["fileinto", "variables", "mailbox"];
set "place" "Mill";
if allof (mailboxexists "Oak", not header :is "subject" "Oak") { fileinto "Oak"; fileinto "\${place}"; }
`).chain;
    const folders = { ...SAME_NAMES, prefix: 'Mail/' };
    const { text, names } = prepareScript(blocks, EVERYTHING, { ...DEFAULT_CHOICES, folders });
    expect(text).toContain('mailboxexists "Mail/Oak"');
    expect(text).toContain('fileinto "Mail/Oak"');
    expect(text).toContain('header :is "subject" "Oak"');
    expect(text).toContain('fileinto "$' + '{place}"');
    expect(names.of('Mail/Oak')).toBe('Oak');
  });

  test('two folders that would be one are told, and so are those that the server does not have', () => {
    const names = { ...SAME_NAMES, separator: '.' as const, there: ['A.B', 'C'] };
    const faults = faultsOfNames(['A.B', 'A/B', 'D', 'INBOX'], names);
    expect(faults).toEqual({ merged: [{ name: 'A.B', folders: ['A.B', 'A/B'] }], missing: ['D'] });
    const { beyond } = prepareScript(
      chainFromSieve('require "fileinto"; fileinto "A.B"; fileinto "A/B";').chain,
      EVERYTHING,
      { ...DEFAULT_CHOICES, folders: names },
    );
    expect(beyond).toEqual(['the folders A.B and A/B would both be “A.B” on the server']);
  });

  test('and back', () => {
    const names = { ...SAME_NAMES, prefix: 'INBOX/', renamed: { Oak: 'Trees' } };
    const back = new NamesBack(['Oak', 'Weir'], names);
    expect(['Trees', 'INBOX/Weir', 'INBOX', 'Other'].map(back.of)).toEqual(['Oak', 'Weir', 'INBOX', 'Other']);
  });

  test.each([
    ['Shop/Orders', ['INBOX.shop.orders', 'Orders'], 'INBOX.shop.orders'],
    ['Shop', ['Shop', 'shop'], 'Shop'],
    ['Shop', ['SHOP', 'shop'], null],
    ['Shop', [], null],
    ['Shop', ['Shops'], null],
  ])('%s of %j means %s', (folder, there, meant) => expect(likelyThere(folder, there)).toBe(meant));
});
