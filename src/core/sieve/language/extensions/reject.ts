import { action, type Extension } from './extension';

const refusal = (name: 'reject' | 'ereject', section: string, about: string) =>
  ({
    ...action,
    name,
    about,
    capability: name,
    section,
    positional: [{ name: 'reason', type: 'string' }],
    excludes: {
      names: ['keep', 'fileinto', 'redirect', 'vacation', 'reject', 'ereject'],
      section: 'RFC 5429 section 2',
    },
    compile: (bound) => {
      const reason = bound.text('reason');
      return (run) => run.fate.take({ action: 'reject', reason: `${name} ${JSON.stringify(reason(run))}` }, run.flags);
    },
  }) satisfies NonNullable<Extension['commands']>[number];

/** RFC 5429: a rejection, during the SMTP dialogue or by a message. */
export const reject: Extension = {
  capabilities: ['reject', 'ereject'],
  commands: [
    refusal('reject', 'RFC 5429 section 2.2', 'Rejects the message and tells the sender why.'),
    refusal('ereject', 'RFC 5429 section 2.1', 'Rejects the message, during the SMTP dialogue if possible.'),
  ],
};
