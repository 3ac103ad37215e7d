import { describe, expect, test } from 'vitest';
import { peopleTests, readPeople } from './people-keys';
import { treeWords } from './sentence';

const said = (text: string): string =>
  peopleTests(readPeople(text), ['from'])
    .map((tree) => treeWords(tree))
    .join();

describe('people', () => {
  test.each([
    ['a@x.example', 'the address in From is “a@x.example”'],
    ['a@x.example, b@x.example', 'the address in From is “a@x.example” or “b@x.example”'],
    ['a@x.example b@x.example\nc@x.example', 'the address in From is “a@x.example”, “b@x.example” or “c@x.example”'],
    ['Ann Lee <a@x.example>; <b@x.example>', 'the address in From is “a@x.example” or “b@x.example”'],
    ['"Lee, Ann" <a@x.example>, mailto:b@x.example', 'the address in From is “a@x.example” or “b@x.example”'],
    ['@y.example', 'the domain of From is “y.example”'],
    ['*@y.example', 'the domain of From is “y.example”'],
    ['*.z.example', 'the domain of From matches “z.example” or “*.z.example”'],
    [
      '@*.z.example *@*.w.example',
      'the domain of From matches “z.example”, “*.z.example”, “w.example” or “*.w.example”',
    ],
    ['news-*@y.example', 'the address in From matches “news-*@y.example”'],
    ['Ann Lee', 'From contains “Ann Lee”'],
    ['a@x.example, @y.example', 'the address in From is “a@x.example” or the domain of From is “y.example”'],
    ['', ''],
    [' ; ,\n', ''],
  ])('%j', (text, words) => {
    expect(readPeople(text).faults).toEqual([]);
    expect(said(text)).toBe(words);
  });

  test.each([
    ['a@', '“a@” is not a complete address.'],
    ['a@b@c', '“a@b@c” is not a complete address.'],
    ['@', '“@” is neither a name nor an address.'],
    ['@two words', '“@two words” is not a domain that an address can have.'],
    ['*.', '“*.” is neither a name nor an address.'],
    ['@.example', '“@.example” is not a domain that an address can have.'],
  ])('%j can match nothing', (text, fault) => {
    expect(readPeople(text).faults).toEqual([fault]);
  });
});
