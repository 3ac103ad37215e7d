import { beforeEach, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { addFile, FROM, id, job, store, withAudit, work } from '../../../test/harness';
import { Shares } from '../chain/shares';
import { chainView } from '../chain/view';
import { perform } from './perform';
import { type Sharer, takePart } from './sharer';

withAudit();

const SCRIPT = `require ["variables", "fileinto"];
if header :matches "subject" "message *0" { fileinto "\${1}"; }
`;

beforeEach(async () => {
  await addFile('rules.sieve', SCRIPT);
  const mail = Array.from(
    { length: 2100 },
    (_, number) => `${FROM}\nSubject: message ${100 + (number % 100)}\nX-Number: ${number}\n\n\n`,
  );
  await addFile('INBOX.mbox', mail.join(''));
  await work();
});

const destinations = () => {
  return chainView(store, id)
    .destinations.filter(({ count }) => count > 0)
    .map(({ key, count }) => [key, count]);
};

/** Takes a part at once, before the thread that asks begins. */
const sharer = (blocks: number): Sharer => ({
  share: async (asked) => {
    const shares = new Shares(asked.count, asked.next);
    const ranges = shares.take();
    const taken = Array.from({ length: blocks }, () => ranges.next().value).filter(Boolean);
    const own = Object.assign(new Shares(asked.count), { take: () => taken[Symbol.iterator]() });
    return takePart(store, asked, given(own));
  },
  close: () => {},
});

test.each([0, 1, 7, 99])('a piece of script run by two threads, one of which takes %i blocks', async (blocks) => {
  await perform(store, job(), { kind: 'simulate' }, { preparer: () => never(), sharer: () => sharer(blocks) });
  expect(destinations()).toEqual([
    ['inbox', 1890],
    ...[10, 11, 12, 13, 14, 15, 16, 17, 18, 19].map((tens) => [`folder:${tens}`, 21]),
  ]);
});

function never(): never {
  throw new Error('nothing is imported');
}
