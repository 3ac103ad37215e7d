import fc from 'fast-check';
import { expect, test } from 'vitest';
import { auditChain } from '../audit/catalogue';
import { AuditMemory } from '../audit/memory';
import { MailGatherer } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { compareChains } from '../reason/equivalence';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { tidyFor } from './tidy-for';

const letter = (from: string, subject: string) =>
  readMessage(
    new TextEncoder().encode(`From: ${from}\r\nTo: kit@home.example\r\nSubject: ${subject}\r\n\r\nText.\r\n`),
  );

/** Tidies rules over mail, given as senders and subjects. */
function tidied(script: string, mail: readonly (readonly [string, string])[] = [], answered: readonly number[] = []) {
  const { chain, diagnostics } = chainFromSieve(`require ["fileinto", "imap4flags"];\n${script}`);
  expect(diagnostics).toEqual([]);
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  for (const [from, subject] of mail) {
    const message = letter(from, subject);
    columns.add(message, envelopeOf(message, null));
    gatherer.add({ message, folder: 'INBOX', flags: [] });
  }
  const evaluate = (wanted: Parameters<typeof evaluateAtoms>[0]) => evaluateAtoms(wanted, columns);
  const atoms = evaluate(atomsOf(chain));
  const flow = runFlow(chain, atoms, columns.count);
  const memory = new AuditMemory();
  const { findings } = auditChain({ chain, flow, atoms, mail: gatherer.mail([]) }, { memory });
  const { count } = columns;
  const tidy = tidyFor({ chain, atoms, evaluate, count, findings, knowledge: memory.knowledge, answered });
  return { chain, tidy, names: namesOf(tidy.chain) };
}

const namesOf = ({ entries }: Chain) => entries.map(({ name }) => name);

const CLUTTERED = `
# Oak
if address :domain :is "from" "oak.example" { fileinto "Oak"; stop; }
# Oak office
if address :is "from" "office@oak.example" { fileinto "Oak"; stop; }
# Storms
if header :contains "subject" ["storm", "storm warning", "Gale", "gale"] { addflag "\\\\Flagged"; }
# Lime
if address :is "from" "kiln@lime.example" { fileinto "Lime"; stop; }
# More lime
if address :is "from" "sales@lime.example" { fileinto "Lime"; stop; }
if header :contains "subject" "tender" { fileinto "Tenders"; stop; }
`;

test('what adds nothing goes, what can be one becomes one, keys are sorted, nameless rules are named', () => {
  const { chain, tidy, names } = tidied(CLUTTERED);
  expect(names).toEqual(['Oak', 'Storms', 'Lime', 'tender']);
  expect(tidy.before).toEqual({ rules: 6, tests: 6, keys: 9 });
  expect(tidy.after).toEqual({ rules: 4, tests: 4, keys: 6 });
  expect(compareChains(chain, tidy.chain).verdict).toBe('equivalent');
  expect(tidied('# Tidy\nif header :is "subject" "a" { fileinto "A"; stop; }').tidy.steps).toEqual([]);
});

const NIGHT = `
# Camera
if address :is "from" "camera@mill.example" { fileinto "Camera"; stop; }
# Night
if allof (address :is "from" "camera@mill.example", header :contains "subject" "night") { fileinto "Night"; stop; }
`;

test('a rule that never acts stays while stored mail tells that it may be meant to, and goes once the user has answered', () => {
  const mail = [['camera@mill.example', 'Motion by night']] as const;
  expect(tidied(NIGHT, mail).names).toEqual(['Camera', 'Night']);
  expect(tidied(NIGHT, mail, [0]).names).toEqual(['Camera']);
  expect(tidied(NIGHT, [['ann@a.example', 'Hello']]).names).toEqual(['Camera']);
});

test('a rule whose test is misspelt is not taken for one that is not needed', () => {
  const script = '# Family\nif address :domain :is "from" "@home.example" { fileinto "Family"; stop; }';
  expect(tidied(script, [['ann@home.example', 'Hello']]).names).toEqual(['Family']);
});

test('tidied chains do the same with every message', () => {
  const key = fc.constantFrom('oak', 'oak beam', 'lime', 'LIME', 'weir');
  const condition = fc.oneof(
    fc.array(key, { minLength: 1, maxLength: 3 }).map((keys) => `header :contains "subject" ${JSON.stringify(keys)}`),
    fc.constantFrom('a@x.example', 'b@x.example').map((address) => `address :is "from" "${address}"`),
    fc.constant('address :domain :is "from" "x.example"'),
  );
  const rule = fc.record({
    tests: fc.array(condition, { minLength: 1, maxLength: 2 }),
    all: fc.boolean(),
    action: fc.constantFrom('fileinto "A"', 'fileinto "B"', 'addflag "$Seen"', 'discard'),
    stop: fc.boolean(),
    linked: fc.boolean(),
  });
  type Drawn = typeof rule extends fc.Arbitrary<infer T> ? T : never;
  const scriptOf = (rules: readonly Drawn[]) =>
    rules
      .map(({ tests, all, action, stop, linked }, at) => {
        const test = `${all ? 'allof' : 'anyof'} (${tests.join(', ')})`;
        return `# R${at}\n${linked && at > 0 ? 'elsif' : 'if'} ${test} { ${action}; ${stop ? 'stop;' : ''} }`;
      })
      .join('\n');
  const subjects = ['', 'oak', 'oak beam', 'Lime', 'weir and oak', 'lime weir'];
  const all = ['a@x.example', 'b@x.example', 'c@y.example'].flatMap((from) =>
    subjects.map((subject) => letter(from, subject)),
  );
  fc.assert(
    fc.property(fc.array(rule, { minLength: 2, maxLength: 7 }), (rules) => {
      const { chain, tidy } = tidied(scriptOf(rules));
      const columns = new MemoryColumns();
      for (const message of all) columns.add(message, envelopeOf(message, null));
      const [before, after] = [chain, tidy.chain].map(
        (one) => runFlow(one, evaluateAtoms(atomsOf(one), columns), columns.count).fates,
      );
      expect(before && after && [...before.differsFrom(after).members()]).toEqual([]);
    }),
    { numRuns: 150 },
  );
});
