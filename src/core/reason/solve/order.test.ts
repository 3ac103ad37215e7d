import fc from 'fast-check';
import { expect, test } from 'vitest';
import { Order } from './order';

test('takes the heaviest of what is in it, as a sorted list would', () => {
  const deeds = fc.array(
    fc.oneof(
      fc.record({ deed: fc.constant('weigh' as const), number: fc.nat(9), more: fc.nat(5) }),
      fc.record({ deed: fc.constant('put' as const), number: fc.nat(9) }),
      fc.record({ deed: fc.constant('take' as const) }),
      fc.record({ deed: fc.constant('scale' as const) }),
    ),
    { maxLength: 60 },
  );
  fc.assert(
    fc.property(deeds, (given) => {
      const order = new Order();
      const weights = new Array<number>(10).fill(0);
      for (let number = 0; number < 10; number++) order.grow();
      let within = weights.map((_, number) => number);
      for (const one of given) {
        if (one.deed === 'scale') {
          order.scale(0.5);
          weights.forEach((weight, number) => {
            weights[number] = weight / 2;
          });
        } else if (one.deed === 'take') {
          const [first = -1] = [...within].sort((a, b) => (weights[b] ?? 0) - (weights[a] ?? 0) || a - b);
          expect(order.take()).toBe(first);
          within = within.filter((number) => number !== first);
        } else if (one.deed === 'put') {
          order.put(one.number);
          if (!within.includes(one.number)) within.push(one.number);
        } else {
          order.weigh(one.number, one.more);
          weights[one.number] = (weights[one.number] ?? 0) + one.more;
        }
      }
    }),
    { numRuns: 500 },
  );
});
