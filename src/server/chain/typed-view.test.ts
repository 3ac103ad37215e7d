import { expect, test } from 'vitest';
import { audit, fill, id, simulated, store, withAudit } from '../../../test/harness';
import { readTold } from '../../core/rules/told/read';
import { unsubscribable } from '../mail/unsubscribing';
import { typedView } from './typed-view';

withAudit();

const told = (...lines: string[]) =>
  lines.map((line, at) => readTold(line, `t${at}`, { me: [], folders: [] })?.rule ?? expect.unreachable());

test('what typed rules would catch behind the draft and those above them; none needs a name', async () => {
  await fill();
  await simulated();
  const [weir, more, off] = told(
    'weir in the subject into New',
    'weir or nothing in the subject into Rest',
    'oak in the subject, when it rains, into Oak',
  );
  const { total, rows } = typedView(store, id, [
    { ...(weir ?? expect.unreachable()), name: '' },
    ...[more, off].flatMap((rule) => rule ?? []),
  ]);
  expect(total).toBe(5);
  // Rules of the draft stop the mail about the weir, and file that about oak.
  expect(rows?.map((row) => row && [row.caught, row.above, row.stopped, row.there])).toEqual([
    [2, 2, 2, 0],
    [3, 2, 2, 0],
    [2, 2, 0, 0],
  ]);
});

test('a rule that no server would accept has no counts, and does not keep others from theirs', async () => {
  await fill();
  const [rule] = told('nothing in the subject into Rest');
  const odd = {
    ...(rule ?? expect.unreachable()),
    actions: [{ action: 'redirect', address: 'nobody', copy: false } as const],
  };
  const { rows } = typedView(store, id, [odd, ...(rule ? [rule] : [])]);
  expect(rows?.map((row) => row?.caught ?? null)).toEqual([null, 1]);
});

test('mail that offers a way to unsubscribe, and mail that does not, are all mail', async () => {
  await fill();
  const [offered, none] = (['offered', 'none'] as const).map((way) => unsubscribable(store, audit(), way).count());
  expect([offered, none]).toEqual([0, 5]);
});
