import { not } from '../../reason/solve/formula';
import { treeWords } from '../../rules/sentence';
import type { AuditContext } from '../context';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { rewrite } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * `exception-void`: an exception that can never apply where the tests of its rule hold, or that always applies then; proved.
 * Where stored mail shows otherwise, nothing is stated.
 */
export function voidExceptions({ each, chain, rules, refuting, questions }: AuditContext): Finding[] {
  return each(rules, ({ entry }) =>
    entry.unless.flatMap((exception, index): Finding[] => {
      const { formulas } = questions;
      const [tests, exempts] = [formulas.maybeFormula(entry.tests), formulas.maybeFormula(exception)];
      if (tests === null || exempts === null) return [];
      const cannot = (wanted: readonly number[], shows: (body: MailBody) => boolean) =>
        !refuting.some(shows) && isImpossible(questions.maybeMeet('parts', wanted, null));
      const never = cannot([tests, exempts], (body) => body.holding(entry.tests).meets(body.holding(exception)));
      const always =
        !never &&
        cannot([tests, not(exempts)], (body) => !body.holding(entry.tests).without(body.holding(exception)).isEmpty());
      // Where the tests can never hold, that is what is to be said.
      if ((!never && !always) || (never && isImpossible(questions.maybeMeet('parts', [tests], null)))) return [];
      const words = treeWords(exception);
      const unless = entry.unless.filter((_, at) => at !== index);
      const title = REPAIRS['without exception'](entry.name, words);
      return [
        {
          key: `exception-void ${entry.id} ${index}`,
          kind: 'exception-void',
          rules: [entry.id],
          certainty: 'proved',
          consequence: always ? 'misplaced' : 'clutter',
          claim: CLAIMS['exception-void'](entry.name, words, never ? 'never' : 'always'),
          messages: [],
          witness: null,
          strength: null,
          repairs: [rewrite(chain, entry, { ...entry, unless }, title)],
        },
      ];
    }),
  );
}

const isImpossible = (answer: { readonly answer: string } | null): boolean => answer?.answer === 'impossible';
