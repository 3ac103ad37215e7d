import { readMessage } from '../mail/message';
import { type Profile, withProfile } from '../rules/profile';
import { blankRule, type Chain, type Rule } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import { traceMessage } from './trace';

const test = (header: 'subject' | 'from', key: string): Rule['tests'] => ({
  kind: 'leaf',
  test: { test: 'header', headers: [header], match: 'contains', comparator: 'i;ascii-casemap', keys: [key] },
});
const into = (folder: string): Rule['actions'] => [{ action: 'fileinto', folder, copy: false, flags: null }];

/** Rules that all match one message: the second is the last where rules say so. */
const CHAIN: Chain = {
  closing: '',
  entries: [
    { ...blankRule('a'), name: 'Invoices', tests: test('subject', 'invoice'), actions: into('Accounts') },
    { ...blankRule('b'), name: 'Lime', tests: test('from', 'lime'), actions: into('Suppliers'), ending: 'stop' },
    { ...blankRule('c'), name: 'Tidy up', tests: test('subject', 'invoice'), actions: [{ action: 'discard' }] },
  ],
};

const MESSAGE = readMessage(
  new TextEncoder().encode('From: sales@lime.example\nTo: me@home.example\nSubject: Invoice for lime\n\n'),
);

/** What the rules of the example are, in words. */
export const EXAMPLE_WORDS =
  'An invoice from a lime yard arrives. “Invoices” files it into “Accounts”, “Lime” into “Suppliers”, which is the last rule where rules say so, and “Tidy up” deletes it.';

/** The places where the message of the example ends under a profile, `INBOX` for the inbox; none if it is gone. */
export function exampleUnder(profile: Profile): string[] {
  const chain = withProfile(CHAIN, profile);
  const { fate } = traceMessage(chain, MESSAGE, { from: null, to: null });
  return fate.deliveries.map(({ folder }) => folder).sort((a, b) => Number(b === INBOX) - Number(a === INBOX));
}
