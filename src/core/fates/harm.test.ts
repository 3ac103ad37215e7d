import { expect, test } from 'vitest';
import { type Destination, harmOf } from './destination';

const to = (folders: readonly string[], redirects: readonly string[] = []): Destination => ({
  folders,
  redirects,
  rejected: false,
});
const OWN = new Set(['home.example']);

test.each<[string, Destination, Destination, string | null]>([
  ['no copy is left', to(['INBOX']), to([]), 'lost'],
  ['another address gets it instead', to(['INBOX']), to([], ['ann@home.example']), 'lost'],
  ['another address gets it, and was not lost before either', to([]), to([], ['ann@home.example']), 'leaked'],
  ['another domain gets a copy', to(['Shop']), to(['Shop'], ['ann@away.example']), 'copied'],
  ['the own domain gets a copy', to(['Shop']), to(['Shop'], ['ann@home.example']), null],
  ['it leaves the inbox', to(['INBOX']), to(['Shop']), 'hidden'],
  ['it changes its folder', to(['Paid']), to(['Shop']), null],
])('%s', (_, before, after, harm) => {
  expect(harmOf(before, after, OWN)).toBe(harm);
});
