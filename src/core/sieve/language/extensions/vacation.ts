import { addressText, parseAddressList } from '../../../mail/address';
import { addressesOf, fieldsNamed } from '../../../mail/message';
import type { Run } from '../../interpret/run';
import { isWithin } from '../../interpret/world';
import { examineAddress } from '../actions/delivery';
import { FCC } from '../shared';
import { action, type Extension } from './extension';

const DAY = 86_400;

/** RFC 5230, with :seconds of RFC 6131 and :fcc of RFC 8580. */
export const vacation: Extension = {
  capabilities: ['vacation', 'vacation-seconds', 'fcc'],
  commands: [
    {
      ...action,
      name: 'vacation',
      about: 'Replies to the sender, at most once in a number of days.',
      // vacation-seconds implies vacation (RFC 6131 section 2).
      capability: ['vacation', 'vacation-seconds'],
      section: 'RFC 5230 section 4',
      once: 'RFC 5230 section 4.7',
      tagGroups: [
        {
          name: 'period',
          tags: [
            { tag: 'days', value: { name: 'days', type: 'number' } },
            { tag: 'seconds', capability: 'vacation-seconds', value: { name: 'seconds', type: 'number' } },
          ],
        },
        { name: 'subject', tags: [{ tag: 'subject', value: { name: 'subject', type: 'string' } }] },
        { name: 'from', tags: [{ tag: 'from', value: { name: 'from', type: 'string' } }] },
        { name: 'addresses', tags: [{ tag: 'addresses', value: { name: 'addresses', type: 'string-list' } }] },
        { name: 'mime', tags: [{ tag: 'mime' }] },
        { name: 'handle', tags: [{ tag: 'handle', value: { name: 'handle', type: 'string' } }] },
        ...FCC,
      ],
      positional: [{ name: 'reason', type: 'string' }],
      examine: (bound, problem) => {
        examineAddress(bound, 'from', problem);
      },
      compile: (bound) => {
        const reason = bound.text('reason');
        const subject = bound.has('subject') ? bound.text('subject') : null;
        const given = bound.has('addresses') ? bound.texts('addresses') : () => [];
        const from = bound.has('from') ? bound.text('from') : null;
        const handle = bound.has('handle') ? bound.text('handle') : null;
        const seconds = bound.has('seconds')
          ? bound.number('seconds')
          : Math.max(1, bound.has('days') ? bound.number('days') : 7) * DAY;
        return (run) => {
          const to = replyTarget(run, given(run));
          // Without a handle, replies with different texts are different (section 4.2).
          const what = handle?.(run) ?? JSON.stringify([reason(run), subject?.(run), from?.(run), bound.tag('mime')]);
          const key = `vacation ${to?.toLowerCase()} ${what}`;
          const { memory, now } = run.world;
          const quiet = to === null || isWithin(memory.noted(key), now, seconds);
          if (!quiet) memory.note(key, now);
          const more =
            bound.has('from') || bound.tag('mime') !== null ? [from?.(run) ?? null, bound.tag('mime') !== null] : [];
          const line = quiet ? null : `reply ${JSON.stringify([subject?.(run) ?? null, reason(run), ...more])}`;
          run.fate.take({ action: 'reply', by: 'vacation', line }, run.flags);
        };
      },
    },
  ],
};

/** The recipient of the reply, or null if none may be sent (sections 4.5 and 4.6, RFC 3834 section 2). */
function replyTarget(run: Run, given: readonly string[]): string | null {
  const { envelope, message, world } = run;
  const sender = envelope.from;
  if (sender === null || sender === '') return null;
  const address = parseAddressList(sender)[0];
  if (!address) return null;
  if (/^(owner-.*|.*-request|mailer-daemon|listserv|majordomo)$/i.test(address.local)) return null;
  if (message.fields.some(({ name }) => /^list-/i.test(name))) return null;
  const automatic = fieldsNamed(message, 'auto-submitted').some(({ value }) => !/^no\b/i.test(value));
  if (automatic || fieldsNamed(message, 'precedence').some(({ value }) => /^(bulk|list|junk)$/i.test(value)))
    return null;
  const own = new Set([envelope.to ?? '', ...world.ownAddresses, ...given].map((text) => text.toLowerCase()));
  const toMe = ['to', 'cc', 'bcc', 'resent-to', 'resent-cc', 'resent-bcc']
    .flatMap((name) => fieldsNamed(message, name))
    .flatMap(addressesOf)
    .some((recipient) => own.has(addressText(recipient).toLowerCase()));
  return toMe && !own.has(sender.toLowerCase()) ? addressText(address) : null;
}
