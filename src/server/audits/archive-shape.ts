import { z } from 'zod';
import { archivedMailShape } from '../../files/archive-file';
import { chainShape } from '../../files/chain-shape';
import { expectationShape } from '../../files/expectation-shape';
import { editShape, settingsShape } from '../http/shapes';

const moment = z.int().min(0);
// An exported audit may contain as many of these as an audit; only its total size is bounded, by `MOST_BESIDE_MAIL`.
const words = z.string();
const script = z.string();

/**
 * A whole audit without its mail, as written to a file and read back. Fields with a default were added by later
 * versions.
 */
export const archiveShape = z.object({
  format: z.literal('ysomeris-audit'),
  version: z.literal(1),
  name: z.string().trim().min(1).max(200),
  ownAddresses: z.array(z.string().max(500)).max(500),
  /** Whether the user has confirmed them. */
  addressesConfirmed: z.boolean().default(true),
  /** The current date that rules see, in milliseconds since 1970; null for the time when each message arrived. */
  clock: moment.nullable().default(null),
  /** Whether sent messages take part in flows and findings. */
  withSent: z.boolean().default(false),
  /** The header field that names the places of messages; null for the folders of the files. */
  placeField: z.string().max(200).nullable().default(null),
  /** What folders are for, where their server says so (RFC 6154 section 2). */
  folderUses: z.record(z.string().max(1000), z.enum(['sent', 'archive', 'trash', 'junk', 'drafts'])).default({}),
  /** The imported scripts, word for word, and their diagnostics. */
  scripts: z
    .array(
      z.object({
        fileName: words,
        digest: z.string().max(200),
        source: script,
        rules: moment,
        blocks: moment,
        faults: z.array(words),
        /** The ids of the entries concerned; null for none. */
        faultEntries: z.array(z.string().max(200).nullable()).default([]),
        /** The ids of the entries made from it. */
        entries: z.array(z.string().max(200)).default([]),
        createdAt: moment,
      }),
    )
    .default([]),
  /** The rules as imported. */
  baseline: chainShape,
  /** In the order they were made; undone changes come last. */
  changes: z.array(
    z.object({
      edits: z.array(editShape),
      words,
      why: words,
      changedMessages: moment,
      undone: z.boolean(),
      /** The step of a plan that it is. */
      origin: z
        .object({
          part: z.enum(['tidy', 'mend', 'answer']),
          agree: moment,
          against: moment,
          ends: moment.nullable(),
          answer: moment.nullable(),
        })
        .nullable()
        .default(null),
      /** The index of the earlier change that it undoes alone. */
      undoes: moment.nullable().default(null),
      createdAt: moment,
    }),
  ),
  /**
   * The rules as they are now: the baseline with all changes that are not undone. For readers that want only the rules.
   */
  draft: chainShape.optional(),
  versions: z.array(z.object({ name: z.string().max(200), chain: chainShape, createdAt: moment })),
  expectations: z.array(
    expectationShape.extend({
      /** For an answer, the number of the message it is about. */
      message: moment.nullable().default(null),
    }),
  ),
  /** Steps of the plan that are not wanted, and messages not to be asked about. */
  declined: z
    .array(z.object({ kind: z.enum(['step', 'question', 'made']), what: words, reason: words, createdAt: moment }))
    .default([]),
  /** Made-up messages, their octets in base64 (RFC 4648 section 4). */
  probes: z.array(z.object({ name: z.string().max(200), raw: z.base64(), expected: z.string().nullable() })),
  /** Findings that were set aside, by key; `facts` is a digest of the facts they were set aside for. */
  asides: z.array(z.object({ key: words, facts: z.string().max(200), reason: words, createdAt: moment })).default([]),
  /** The target of the script; null if it was never set. */
  handover: settingsShape.nullable(),
  /** Exported scripts, and where they went. */
  handed: z.array(z.object({ place: words, script, createdAt: moment })).default([]),
});

export type Archive = DeepReadonly<z.infer<typeof archiveShape>>;

type DeepReadonly<T> = T extends object ? { readonly [Key in keyof T]: DeepReadonly<T[Key]> } : T;

/** The schema of exported audits (JSON Schema, draft 2020-12). */
export const archiveSchema = (): object => ({
  title: 'An audit of incoming-mail rules',
  ...z.toJSONSchema(archiveShape.extend({ mail: z.array(archivedMailShape).optional() }), {
    io: 'input',
    reused: 'ref',
  }),
});
