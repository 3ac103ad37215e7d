import { expect, test } from 'vitest';
import { moveBefore } from './edit';
import { changeWords } from './edit-words';
import { chainFromSieve } from './from-sieve';

const { chain } = chainFromSieve('# Oak\nif true { keep; }\n# Lime\nif true { discard; }\n# Weir\nif true { stop; }\n');
const account = (id: string, to: string | null) => ({ kind: 'account', id, from: null, to }) as const;

test('each edit names its rule; many of one kind are told as one', () => {
  const move = moveBefore(chain, 'r3', 'r1');
  const off = { kind: 'switch', id: 'r2', on: false } as const;
  expect(move && changeWords(chain, [move, off])).toBe('Move “Weir” to directly before “Oak”; Switch “Lime” off');
  const last = moveBefore(chain, 'r1', null);
  expect(last && changeWords(chain, [last])).toBe('Move “Oak” to the end');
  expect(changeWords(chain, [account('r1', 'a@mill.example')])).toBe('Let “Oak” concern only mail to a@mill.example');
  expect(changeWords(chain, [account('r1', 'a@mill.example'), account('r2', 'a@mill.example')])).toBe(
    'Let 2 rules concern only mail to a@mill.example',
  );
  expect(changeWords(chain, [account('r1', 'a@mill.example'), account('r2', null)])).toBe(
    'Let “Oak” concern only mail to a@mill.example; Let “Lime” concern mail to any address',
  );
  expect(changeWords(chain, [account('r1', null), account('r2', null)])).toBe(
    'Let 2 rules concern mail to any address',
  );
});

test('what is done to more than two rules is told as one', () => {
  const ids = ['r1', 'r2', 'r3'];
  expect(
    changeWords(
      chain,
      ids.map((id) => ({ kind: 'switch', id, on: false }) as const),
    ),
  ).toBe('Switch 3 rules off');
  const mixed = ids.map((id) => ({ kind: 'switch', id, on: id === 'r1' }) as const);
  expect(changeWords(chain, mixed)).toBe('Switch “Oak” on; Switch “Lime” off; Switch “Weir” off');
  const endings = ids.map((id) => ({ kind: 'ending', id, from: 'continue', to: 'stop' }) as const);
  expect(changeWords(chain, endings)).toBe('Let mail that fires 3 rules end there');
});
