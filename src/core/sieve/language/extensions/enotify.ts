import { maybeSingleAddress } from '../../../mail/address';
import { fieldsNamed } from '../../../mail/message';
import { examineAddress, examineOneOf } from '../actions/delivery';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, FCC, MATCH_TYPE } from '../shared';
import { action, type Extension, test } from './extension';

/** RFC 5435, with the mailto method of RFC 5436, the only simulated one. */
export const enotify: Extension = {
  capabilities: ['enotify'],
  commands: [
    {
      ...action,
      name: 'notify',
      about: 'Sends a notification.',
      capability: 'enotify',
      section: 'RFC 5435 section 3',
      tagGroups: [
        { name: 'from', tags: [{ tag: 'from', value: { name: 'from', type: 'string' } }] },
        { name: 'importance', tags: [{ tag: 'importance', value: { name: 'importance', type: 'string' } }] },
        { name: 'options', tags: [{ tag: 'options', value: { name: 'options', type: 'string-list' } }] },
        { name: 'message', tags: [{ tag: 'message', value: { name: 'message', type: 'string' } }] },
        ...FCC,
      ],
      positional: [{ name: 'method', type: 'string' }],
      examine: (bound, problem) => {
        examineOneOf(bound, 'importance', /^[123]$/, '"1", "2" or "3" (RFC 5435 section 3.4)', problem);
        examineOneOf(bound, 'method', /^[a-z][a-z0-9+.-]*:/i, 'a URI (RFC 5435 section 3.1)', problem);
        examineAddress(bound, 'from', problem);
      },
      compile: (bound) => {
        const method = bound.text('method');
        const words = bound.has('message') ? bound.text('message') : null;
        return (run) => {
          // A notification must not trigger another (RFC 5436 section 2.7.1).
          const automatic = fieldsNamed(run.message, 'auto-submitted').some(({ value }) =>
            /auto-notified/i.test(value),
          );
          if (!automatic)
            run.fate.take(
              { action: 'reply', by: 'notify', line: `notify ${JSON.stringify([method(run), words?.(run) ?? null])}` },
              run.flags,
            );
        };
      },
    },
  ],
  tests: [
    {
      ...test,
      name: 'valid_notify_method',
      about: 'True when the server can send notifications by all of the methods.',
      capability: 'enotify',
      section: 'RFC 5435 section 4',
      tagGroups: [],
      positional: [{ name: 'uris', type: 'string-list' }],
      compile: (bound) => {
        const uris = bound.texts('uris');
        return (run) => uris(run).every(isMailto);
      },
    },
    {
      ...test,
      name: 'notify_method_capability',
      about: 'Compares a capability of a notification method with keys.',
      capability: 'enotify',
      section: 'RFC 5435 section 5',
      tagGroups: [COMPARATOR, MATCH_TYPE],
      positional: [
        { name: 'uri', type: 'string' },
        { name: 'notification-capability', type: 'string' },
        { name: 'key-list', type: 'string-list' },
      ],
      examine: (bound, problem) => examineMatching(bound, problem, 'key-list'),
      compile: (bound) => {
        const uri = bound.text('uri');
        const asked = bound.text('notification-capability');
        const matching = matchingOf(bound, 'key-list');
        return (run, report) => {
          // Whether a mailbox's owner is online is unknown (RFC 5436 section 2.9).
          const known = isMailto(uri(run)) && asked(run).toLowerCase() === 'online';
          const candidates: Candidate[] = known
            ? [{ value: 'maybe', where: { kind: 'other', what: 'notification' } }]
            : [];
          return known && matching(run, candidates, report);
        };
      },
    },
  ],
};

const isMailto = (uri: string): boolean => {
  const address = /^mailto:([^?]+)/i.exec(uri)?.[1];
  return address !== undefined && maybeSingleAddress(decodeURIComponentSafely(address)) !== null;
};

function decodeURIComponentSafely(text: string): string {
  try {
    return decodeURIComponent(text);
  } catch {
    return text;
  }
}
