import { expect, test } from 'vitest';
import { elementAt } from '../../core/text/lookup';
import { Shares } from './shares';

test.each([0, 1, 127, 128, 129, 1000])('%i messages are handed out once each, whoever asks', (count) => {
  const first = new Shares(count);
  const second = new Shares(count, first.next);
  const taken: number[][] = [[], []];
  const asking = [first.take(), second.take()];
  for (let turn = 0, ended = 0; ended < 2; turn++) {
    const { value, done } = elementAt(asking, turn % 2).next();
    if (done) ended++;
    else for (let number = value.from; number < value.to; number++) taken[turn % 2]?.push(number);
  }
  expect(taken.flat().sort((a, b) => a - b)).toEqual(Array.from({ length: count }, (_, number) => number));
  for (const own of taken) expect(own).toEqual([...own].sort((a, b) => a - b));
});

test.each([0, 1, 2, 7, 100])('%i pieces of texts are handed out once each, whoever comes to them first', (pieces) => {
  const first = new Shares(1000);
  const threads = [first, new Shares(1000, first.next)];
  const places = [0, 0];
  const taken: number[] = [];
  for (let turn = 0; places.some((place) => place < pieces); turn++) {
    // The second thread is three times as fast.
    const at = turn % 4 === 0 ? 0 : 1;
    const place = elementAt(places, at);
    if (place < pieces && elementAt(threads, at).takesText(place)) taken.push(place);
    places[at] = place + 1;
  }
  expect(taken.sort((a, b) => a - b)).toEqual([...Array(pieces).keys()]);
});
