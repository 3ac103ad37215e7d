import { z } from 'zod';
import { archivedMailShape } from '../../files/archive-file';
import { chainShape } from '../../files/chain-shape';
import { editShape, expectationShape, settingsShape } from '../http/shapes';

const moment = z.int().min(0);
// Of these an archive holds as much as an audit: what is bounded is the whole of it, by `MOST_BESIDE_MAIL`.
const words = z.string();
const script = z.string();

/** A whole audit but for its mail, as it is written to a file and read back. What has a default came with a later program. */
export const archiveShape = z.object({
  format: z.literal('ysomeris-audit'),
  version: z.literal(1),
  name: z.string().trim().min(1).max(200),
  ownAddresses: z.array(z.string().max(500)).max(500),
  /** Whether the user has confirmed them. */
  addressesConfirmed: z.boolean().default(true),
  /** What tests of the current date see, in milliseconds since 1970; null for the time at which each message arrived. */
  clock: moment.nullable().default(null),
  /** Whether messages that the user sent take part in flows and findings. */
  withSent: z.boolean().default(false),
  /** The scripts that were brought in, word for word, and what was said of them. */
  scripts: z
    .array(
      z.object({
        fileName: words,
        digest: z.string().max(200),
        source: script,
        rules: moment,
        blocks: moment,
        faults: z.array(words),
        /** The entries that they concern, by their ids; null for none. */
        faultEntries: z.array(z.string().max(200).nullable()).default([]),
        /** The ids of the entries that were made of it. */
        entries: z.array(z.string().max(200)).default([]),
        createdAt: moment,
      }),
    )
    .default([]),
  /** The rules as they were brought in. */
  baseline: chainShape,
  /** In the order in which they were made; those that are undone stand at the end. */
  changes: z.array(
    z.object({
      edits: z.array(editShape),
      words,
      why: words,
      changedMessages: moment,
      undone: z.boolean(),
      createdAt: moment,
    }),
  ),
  /** The rules as they are now: the baseline after the changes that stand. For whoever wants nothing but the rules. */
  draft: chainShape.optional(),
  versions: z.array(z.object({ name: z.string().max(200), chain: chainShape, createdAt: moment })),
  expectations: z.array(expectationShape),
  /** Made-up messages, their octets in base64 (RFC 4648 section 4). */
  probes: z.array(z.object({ name: z.string().max(200), raw: z.base64(), expected: z.string().nullable() })),
  /** Findings that were set aside, by their keys; `facts` is a digest of what they were set aside for. */
  asides: z.array(z.object({ key: words, facts: z.string().max(200), reason: words, createdAt: moment })).default([]),
  /** For whom the script is written; null where that was never set. */
  handover: settingsShape.nullable(),
  /** Scripts that were handed over, and where they went. */
  handed: z.array(z.object({ place: words, script, createdAt: moment })).default([]),
});

export type Archive = DeepReadonly<z.infer<typeof archiveShape>>;

type DeepReadonly<T> = T extends object ? { readonly [Key in keyof T]: DeepReadonly<T[Key]> } : T;

/** The schema of archives (JSON Schema, draft 2020-12). */
export const archiveSchema = (): object => ({
  title: 'An audit of incoming-mail rules',
  ...z.toJSONSchema(archiveShape.extend({ mail: z.array(archivedMailShape).optional() }), {
    io: 'input',
    reused: 'ref',
  }),
});
