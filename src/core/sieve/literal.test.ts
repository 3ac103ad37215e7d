import fc from 'fast-check';
import { expect, test } from 'vitest';
import { interpreter } from './interpret/interpret';
import { literal } from './literal';
import { parse } from './parse';
import { quote } from './quote';

/** The folder that a script files into, as the interpreter reads it. */
function folderOf(value: string, capabilities: readonly string[]): string | undefined {
  const script = `require ["fileinto", ${capabilities.map(quote).join(', ')}];\nfileinto ${quote(value)};`;
  const { taken } = interpreter(parse(script).script)(
    { fields: [], size: 0, body: new Uint8Array() },
    { from: null, to: null },
  );
  const [first] = taken;
  return first?.action === 'fileinto' ? first.folder : undefined;
}

const tricky = fc
  .array(fc.constantFrom('$', '{', '}', 'hex:', 'unicode:', '40', '24 7b', 'x', '1', ' ', '\\', '"', 'é', '${'), {
    maxLength: 12,
  })
  .map((parts) => `f${parts.join('')}`);

test.each([[['variables']], [['encoded-character']], [['variables', 'encoded-character']]])(
  'any characters are said literally where a script requires %s (RFC 5228 section 2.4.2.4, RFC 5229 section 3)',
  (capabilities) => {
    const reading = {
      variables: capabilities.includes('variables'),
      encoded: capabilities.includes('encoded-character'),
      unset: 'nothing',
    };
    fc.assert(
      fc.property(tricky, (value) => {
        expect(folderOf(literal(value, reading), capabilities)).toBe(value);
      }),
      { numRuns: 2000 },
    );
  },
);

test('without either, nothing is changed', () => {
  expect(literal('${x} ${hex:40}', { variables: false, encoded: false, unset: 'nothing' })).toBe('${x} ${hex:40}');
});
