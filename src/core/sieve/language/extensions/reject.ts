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
      names: ['keep', 'fileinto', 'redirect', 'vacation', 'reject', 'ereject'].filter((other) => other !== name),
      section: 'RFC 5429 section 2',
    },
    compile: () => (run) => run.fate.take({ action: 'reject' }, run.flags),
  }) satisfies NonNullable<Extension['commands']>[number];

/** RFC 5429: a refusal, whether during the SMTP dialogue or by a message. */
export const reject: Extension = {
  capabilities: ['reject', 'ereject'],
  commands: [
    refusal('reject', 'RFC 5429 section 2.2', 'Refuses the message and tells the sender why.'),
    refusal('ereject', 'RFC 5429 section 2.1', 'Refuses the message, during the SMTP dialogue where that is possible.'),
  ],
};
