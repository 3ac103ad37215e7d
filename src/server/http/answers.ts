import { z } from 'zod';
import { CONSEQUENCES, type MadeUp } from '../../core/audit/finding';
import { KINDS } from '../../core/audit/kind-words';
import { ALL_ASSUMPTIONS } from '../../core/reason/solve/assumptions';
import type { Together } from '../../core/repair/together';
import { keysOf } from '../../core/text/lookup';
import { treeShape } from '../../files/chain-shape';
import type { HistoryView, OriginsView, RuleMailView } from '../chain/flows-view';
import type { TrialView } from '../chain/trial-view';
import type { TypedView } from '../chain/typed-view';
import type { Widening } from '../changes/examples-view';
import type { Broken } from '../changes/expectations';
import type { ForesightView } from '../changes/foresight-view';
import type { PreviewView } from '../changes/view';
import type { RemovalView } from '../gather/mail-sources';
import { ODDITY_WORDS } from '../gather/oddities';
import type { PlaceFieldView } from '../gather/place-field';
import type { BetterProfile } from '../gather/profile-view';
import type { ServerView, Untrusted } from '../handover/mail-server';
import type { FileLine } from '../jobs/file-report';
import type { AbsenceView } from '../mail/absence-view';
import type { FoundView } from '../mail/found-view';
import type { MessagePage, MessageRow } from '../mail/list-view';
import type { TracedView } from '../mail/message-view';
import type { MailboxContents, MailboxStarted } from '../mailbox/ask';
import type { Contradiction, ScopesView } from '../plan/scopes';
import { editShape } from './shapes';

/** Responses that pages request while they are shown: route handlers send them, and the browser checks them. */

const count = z.number();
const words = z.string();

const outline = z.array(z.object({ depth: count, text: words })).nullable();

const monthsAnswer = z.object({ months: z.array(z.object({ month: words, count })), before: count, after: count });

export const foundAnswer: z.ZodType<FoundView> = z.object({
  rules: z.array(z.object({ id: words, place: count, name: words, sentence: words })),
  folders: z.array(z.object({ name: words, messages: count })),
  findings: z.array(z.object({ key: words, claim: words })),
  messages: z.array(z.object({ number: count, subject: words, from: words, date: count.nullable() })),
  all: z.object({ rules: count, folders: count, findings: count, messages: count }),
});

export const ruleMailAnswer: z.ZodType<RuleMailView> = z.object({
  rule: words,
  of: z.enum(['fired', 'held']),
  total: count,
  passing: z.array(count),
});

export const historyAnswer: z.ZodType<HistoryView> = z.object({
  fired: count,
  months: monthsAnswer,
  last: z.object({ number: count, date: z.number() }).nullable(),
});

export const originsAnswer: z.ZodType<OriginsView> = z.object({
  count,
  total: count,
  domains: z.array(z.object({ domain: words, count })),
  months: monthsAnswer,
});

export const removalAnswer: z.ZodType<RemovalView> = z.object({
  messages: count,
  total: count,
  folders: z.array(z.object({ folder: words, messages: count })),
  rules: z.array(z.object({ id: words, name: words, now: count, after: count })).nullable(),
  unused: count,
});

export const filesAnswer: z.ZodType<readonly FileLine[]> = z.array(
  z.object({
    path: words,
    many: z.boolean(),
    messages: count,
    repeated: count,
    odd: count,
    ranges: z.array(z.tuple([count, count])),
    passedOver: words.nullable(),
  }),
);

export const absenceAnswer: z.ZodType<AbsenceView> = z.object({
  arrives: z.boolean(),
  sets: z.array(
    z.object({
      rules: z.array(z.object({ id: words, name: words, place: count })),
      edits: z.array(editShape),
      changed: count,
      arriving: count,
    }),
  ),
  found: count,
  complete: z.boolean(),
  total: count,
});

export const togetherAnswer: z.ZodType<Together> = z.object({
  edits: z.array(editShape),
  conflicts: z.array(z.object({ index: count, against: count.nullable(), words })),
});

const fate = z.object({ places: z.array(z.object({ key: words, label: words, flags: z.array(words) })) });
const oddity = z.enum(keysOf(ODDITY_WORDS));

const messageRow = z.object({
  number: count,
  subject: words,
  from: words,
  fromAddress: words,
  date: z.number().nullable(),
  folder: words,
  unseen: z.boolean(),
  fate: fate.nullable(),
  sent: z.boolean(),
  fired: z.array(words),
  oddities: z.array(oddity),
}) satisfies z.ZodType<MessageRow>;

export const messagesAnswer: z.ZodType<MessagePage> = z.object({
  found: count,
  total: count,
  offset: count,
  rows: z.array(messageRow),
});

const attachment = z.object({ part: count, name: words.nullable(), type: words, octets: count });

const mark = z.object({
  span: z.object({ start: count, end: count }),
  rules: z.array(count),
  ends: z.array(count),
});

export const triedAnswer: z.ZodType<TracedView & { readonly line: string }> = z.object({
  line: words,
  fields: z.array(z.object({ name: words, value: words, marks: z.array(mark) })),
  body: z.object({
    texts: z.array(
      z.object({ type: words, name: words.nullable(), text: words, marks: z.array(mark), folded: z.boolean() }),
    ),
    attachments: z.array(attachment),
    fault: words.nullable(),
  }),
  octets: count,
  fate,
  error: words.nullable(),
  entries: z.array(
    z.object({
      number: count,
      id: words,
      name: words,
      sentence: words,
      outline,
      outcome: z.enum(['fired', 'did not hold', 'not reached', 'passed over']),
      stopped: z.boolean(),
      tests: z.array(z.object({ text: words, words: words.nullable(), holds: z.boolean(), evidence: z.array(words) })),
    }),
  ),
});

const madeUp: z.ZodType<MadeUp> = z.object({
  open: words,
  size: count,
  from: words.nullable(),
  to: words.nullable(),
  now: z.number().optional(),
});

const broken: z.ZodType<Broken> = z.object({
  id: count,
  name: words,
  messages: z.array(count),
  probes: z.array(words),
  witness: madeUp.nullable(),
});

/** A response that may have to be computed first, by the named job. */
export const previewAnswer: z.ZodType<PreviewView & { readonly weighing: string | null }> = z.object({
  words,
  comparison: z
    .object({
      changed: count,
      total: count,
      moves: z.array(z.object({ from: words, to: words, count })),
      rows: z.array(messageRow.extend({ before: words, after: words })),
    })
    .nullable(),
  texts: z.tuple([words, words]).nullable(),
  broken: z.array(broken),
  weighing: words.nullable(),
});

const findingLine = z.object({
  key: words,
  kind: z.enum(keysOf(KINDS)),
  certainty: z.enum(['proved', 'shown', 'observed', 'undecided']),
  consequence: z.enum(CONSEQUENCES),
  claim: words,
  count,
  madeUp: z.boolean(),
  isKept: z.boolean(),
});

const verdict = z.discriminatedUnion('verdict', [
  z.object({ verdict: z.enum(['equivalent', 'holds']), assumes: z.array(z.enum(ALL_ASSUMPTIONS)) }),
  z.object({ verdict: z.enum(['different', 'broken']), witness: madeUp }),
  z.object({ verdict: z.literal('undecided'), reason: words }),
]);

export const foresightAnswer: z.ZodType<{
  readonly foresight: ForesightView | null;
  readonly looking: string | null;
}> = z.object({
  foresight: z
    .object({
      ended: z.array(findingLine),
      brought: z.array(findingLine),
      passedOn: count,
      verdict: verdict.nullable(),
      broken: z.array(broken),
    })
    .nullable(),
  looking: words.nullable(),
});

export const trialAnswer: z.ZodType<TrialView & { readonly weighing: string | null }> = z.object({
  sentence: words,
  outline,
  text: words,
  faults: z.array(z.object({ at: words, words, grave: z.boolean() })),
  edits: z.array(editShape).nullable(),
  counted: z.array(editShape).nullable(),
  effect: z
    .object({
      total: count,
      held: count,
      fires: count,
      untaken: count,
      gained: count,
      lost: count,
      changed: count,
      samples: z.array(
        z.object({
          row: messageRow,
          part: z.enum(['gained', 'lost', 'kept']),
          before: words,
          after: words,
          evidence: z.array(words),
        }),
      ),
    })
    .nullable(),
  broken: z.array(broken),
  weighing: words.nullable(),
});

export const betterProfileAnswer: z.ZodType<BetterProfile | null> = z
  .object({ title: words, lying: count, of: count, now: z.object({ lying: count, of: count }) })
  .nullable();

export const placeFieldAnswer: z.ZodType<PlaceFieldView> = z.object({
  chosen: words.nullable(),
  proposed: z.array(
    z.object({
      name: words,
      messages: count,
      places: z.array(z.object({ place: words, messages: count })),
      several: count,
    }),
  ),
  total: count,
});

export const typedAnswer: z.ZodType<TypedView & { readonly weighing: string | null }> = z.object({
  total: count,
  rows: z
    .array(
      z
        .object({
          caught: count,
          above: count,
          stopped: count,
          there: count,
          inbox: count,
          conversations: count.nullable(),
        })
        .nullable(),
    )
    .nullable(),
  edits: z.array(editShape),
  weighing: words.nullable(),
});

const contradiction: z.ZodType<Contradiction> = z.object({
  id: count,
  words,
  message: count.nullable(),
  shared: count,
  example: count,
});

export const scopesAnswer: z.ZodType<ScopesView> = z.object({
  scopes: z.array(
    z.object({
      by: z.enum(['message', 'list', 'sender', 'domain', 'recipient', 'subject', 'both', 'rule']),
      tests: treeShape,
      words,
      messages: count,
      there: count,
      against: contradiction.nullable(),
    }),
  ),
  chosen: count,
});

export const givenAnswer = z.union([z.object({ id: count }), z.object({ against: contradiction })]);

/** A job that was started. */
export const startedAnswer = z.object({ id: words });

export const plannedAnswer = z.object({ job: words.nullable() });

export const wideningAnswer: z.ZodType<Widening> = z.object({ edits: z.array(editShape), dropped: z.array(words) });

const untrusted = z.object({ untrusted: z.object({ reason: words, fingerprint: words, subject: words }) });
const scriptNames = z.array(z.object({ name: words, active: z.boolean() }));

export const mailboxAnswer: z.ZodType<MailboxContents | MailboxStarted | Untrusted> = z.union([
  untrusted,
  z.object({ started: words }),
  z.object({
    folders: z.array(
      z.object({
        path: words,
        use: z.enum(['sent', 'archive', 'trash', 'junk', 'drafts']).nullable(),
        isView: z.boolean(),
        messages: count,
        octets: count.nullable(),
      }),
    ),
    scripts: scriptNames.nullable(),
    scriptTrouble: words,
  }),
]);

export const serverAnswer: z.ZodType<ServerView | Untrusted> = z.union([
  untrusted,
  z.object({
    capabilities: z.object({
      implementation: words,
      sieve: z.array(words),
      sasl: z.array(words),
      starttls: z.boolean(),
      maxRedirects: count.nullable(),
      version: words.nullable(),
    }),
    isTarget: z.boolean(),
    script: z.discriminatedUnion('is', [
      z.object({ is: z.enum(['not verified', 'held back']), why: words }),
      z.object({ is: z.literal('accepted'), answer: words }),
      z.object({ is: z.literal('rejected'), answer: words, lacks: z.array(words) }),
      z.object({ is: z.literal('not checkable') }),
    ]),
    scripts: scriptNames,
    done: words,
    before: words.nullable(),
    uploaded: words.nullable(),
  }),
]);

export const repairsAnswer = z.object({ trying: words.nullable() });
export const probeAnswer = z.object({ text: words });
export const editsAnswer = z.object({ edits: z.array(editShape), words });
