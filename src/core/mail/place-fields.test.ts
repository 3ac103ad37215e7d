import { describe, expect, test } from 'vitest';
import { mainPlace, mayBePlaces, PlaceCounter, placesIn } from './place-fields';

test.each([
  ['Shop', ['Shop']],
  ['Inbox, Shop/Orders, Inbox', ['INBOX', 'Shop/Orders']],
  ['  Mill and weir ;Oak', ['Mill and weir', 'Oak']],
  ['"Lime, mortar","a \\"b\\" c"', ['Lime, mortar', 'a "b" c']],
  ['"open', ['open']],
  [' , ;', []],
  ['', []],
  ['Mühle,水車', ['Mühle', '水車']],
  [`a\u0007b`, ['a b']],
  ['x'.repeat(201), []],
])('the value %j names %j', (value, places) => expect(placesIn(value)).toEqual(places));

test('a value of a megabyte is read in time linear in its length, and names few places', () => {
  expect(placesIn(`"${'\\"'.repeat(500_000)}`)).toEqual([]);
  expect(placesIn('"'.repeat(1_000_000))).toEqual([]);
  expect(placesIn(Array.from({ length: 100_000 }, (_, at) => `place ${at}`).join())).toHaveLength(100);
});

test('a message is listed where it was put rather than in the inbox', () => {
  expect([['INBOX', 'Oak', 'Weir'], ['INBOX'], []].map(mainPlace)).toEqual(['Oak', 'INBOX', null]);
});

describe('a field looks like places', () => {
  const looks = (name: string, values: readonly string[]) => {
    const counter = new PlaceCounter();
    for (const value of values) counter.add([value]);
    return mayBePlaces(name) ? counter.maybeField(name) : null;
  };
  const times = (count: number, value: string) => Array.from({ length: count }, () => value);
  const filed = [...times(10, 'Inbox'), ...times(8, 'Oak'), ...times(2, 'Inbox,Oak')];

  test('if few values are on many messages, under a telling name or with names that mailboxes have', () => {
    expect(looks('x-folder', filed)).toEqual({
      name: 'x-folder',
      messages: 20,
      places: [
        { place: 'INBOX', messages: 12 },
        { place: 'Oak', messages: 10 },
      ],
      several: 2,
    });
    expect(looks('x-where', filed)).not.toBe(null);
    expect(looks('x-labels', [...times(10, 'a'), ...times(10, 'b')])).not.toBe(null);
  });
  test.each<[string, string, string[]]>([
    ['each message has its own', 'x-folder', Array.from({ length: 50 }, (_, at) => `place ${at}`)],
    ['all have one', 'x-folder', times(50, 'a')],
    ['too few', 'x-folder', [...times(4, 'a'), ...times(4, 'b')]],
    ['an untelling name with untelling values', 'x-shoe', [...times(20, 'left'), ...times(20, 'right')]],
    ['a list', 'list-folder-id', filed],
    ['a program', 'x-mailer', [...times(20, 'inbox'), ...times(20, 'b')]],
  ])('and not: %s', (_why, name, values) => expect(looks(name, values)).toBe(null));
});
