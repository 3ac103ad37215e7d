import { describe, expect, test } from 'vitest';
import { PeopleCounter } from './people';

describe('correspondents', () => {
  test('whom the user has written to, and who has written, by address whatever its case', () => {
    const people = new PeopleCounter(['me@mill.example']);
    people.add({ from: 'Me@Mill.example', fromName: 'Me', to: ['a@x.example', 'A@X.example', 'b@x.example'], date: 5 });
    people.add({ from: 'a@x.example', fromName: 'Ann', to: ['me@mill.example'], date: 9 });
    people.add({ from: 'c@x.example', fromName: '', to: ['me@mill.example'], date: null });
    expect(people.list()).toEqual([
      { address: 'a@x.example', name: 'Ann', written: 1, received: 1, latest: 9 },
      { address: 'b@x.example', name: 'b@x.example', written: 1, received: 0, latest: 5 },
      { address: 'c@x.example', name: 'c@x.example', written: 0, received: 1, latest: null },
    ]);
  });

  test('mail from nobody, or to oneself, is no correspondence', () => {
    const people = new PeopleCounter(['me@mill.example']);
    people.add({ from: '', fromName: 'Nobody', to: [], date: null });
    people.add({ from: 'me@mill.example', fromName: 'Me', to: ['me@mill.example', ''], date: 1 });
    expect(people.list()).toEqual([]);
  });
});
