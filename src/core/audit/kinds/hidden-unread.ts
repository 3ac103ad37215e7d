import type { AuditContext } from '../context';
import { foldersOf } from '../destinations';
import type { Finding } from '../finding';
import { inInboxToo, withoutRule } from '../repairs';
import { CLAIMS, STRENGTHS } from '../wording';
import { hiddenBy } from './unprotected';

const LEAST = 5;
const SHARE = 0.3;

/**
 * `hidden-unread`: mail of a rule does not reach the inbox and is unseen in its folder: at least five messages, and
 * three tenths of those the rule filed there. If folders of stored mail are unknown, all of its mail counts.
 */
export function hiddenUnread(context: AuditContext): Finding[] {
  const { chain, mail } = context;
  if (!mail.marksKnown) return [];
  return context.each(context.rules, (rule) => {
    const { entry, fired } = rule;
    const folders = foldersOf(entry);
    const lies = (number: number) => {
      const { folder } = mail.message(number);
      return folder === null || folders.includes(folder);
    };
    const unseen = [...hiddenBy(context, rule).members()].filter(lies);
    const whole = [...fired.members()].filter(lies).length;
    if (unseen.length < LEAST || unseen.length < whole * SHARE) return [];
    return [
      {
        key: `hidden-unread ${entry.id}`,
        kind: 'hidden-unread',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'unseen',
        claim: CLAIMS['hidden-unread'](entry.name, unseen.length, folders),
        messages: unseen,
        witness: null,
        strength: { part: unseen.length, whole, words: STRENGTHS['hidden-unread'] },
        repairs: [...inInboxToo(chain, entry), ...withoutRule(chain, entry)],
      } satisfies Finding,
    ];
  });
}
