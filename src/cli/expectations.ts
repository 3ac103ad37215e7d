import { z } from 'zod';
import { domainsOf } from '../core/mail/address';
import { isOutgoing } from '../core/mail/places';
import { summaryOf } from '../core/mail/summary';
import { askingChain, checkStored, type Expectation, expectationWords } from '../core/repair/expectations';
import type { Chain } from '../core/rules/rule';
import { DamagedArchive, readWithoutMail } from '../files/archive-file';
import { chainFromDocument, inFormOfToday } from '../files/chain-document';
import { expectationShape } from '../files/expectation-shape';
import { clockOf, flowsOfFile } from './flow';
import { CliError, localPath } from './options';

/** What an exported audit says of mail: its rules, and what must happen. */
export interface Expected {
  readonly chain: Chain;
  readonly expectations: readonly Expectation[];
  readonly own: readonly string[];
  /** The date that rules see, in milliseconds since 1970; null for the time when each message arrived. */
  readonly clock: number | null;
  /** Whether mail that the user sent takes part. */
  readonly withSent: boolean;
}

const auditShape = z.object({
  format: z.literal('ysomeris-audit'),
  ownAddresses: z.array(z.string()),
  clock: z.int().nullable().default(null),
  withSent: z.boolean().default(false),
  expectations: z.array(expectationShape),
});

/** Reads an exported audit; its mail is not read. */
export async function readExpected(path: string): Promise<Expected> {
  const { rest } = await readWithoutMail(await localPath(path)).catch((error: unknown) => {
    if (error instanceof DamagedArchive) throw new CliError(`${path}: ${error.message}`);
    throw error;
  });
  const found = chainFromDocument(rest);
  if (!found.ok) throw new CliError(`${path}: ${found.reason}`);
  const audit = auditShape.safeParse(inFormOfToday(rest));
  if (!audit.success) throw new CliError(`${path}: it is not an exported audit`);
  const { ownAddresses: own, clock, withSent, expectations } = audit.data;
  return { chain: found.chain, expectations, own, clock, withSent };
}

/** An expectation that messages do not meet. */
export interface BrokenExpectation {
  readonly expectation: string;
  readonly words: string;
  /** Indexes as `simulate` gives them. */
  readonly messages: readonly number[];
}

/** Runs the chain on the messages of a file or folder, and returns the expectations that some of them do not meet. */
export async function brokenBy(
  { chain, expectations, own, clock, withSent }: Expected,
  path: string,
): Promise<BrokenExpectation[]> {
  const broken = expectations.map((): number[] => []);
  const domains = domainsOf(own);
  const mine = new Set(own.map((address) => address.toLowerCase()));
  const sent = new Set<number>();
  let [seen, first] = [0, 0];
  const also = askingChain(expectations);
  const flows = flowsOfFile(chain, path, own, clockOf(clock ?? undefined), {
    also,
    see: ({ message, folder }) => {
      const isSent = isOutgoing(message, folder) && mine.has(summaryOf(message).fromAddress.toLowerCase());
      if (isSent && !withSent) sent.add(seen);
      seen++;
    },
  });
  for await (const { flow, atoms, ids } of flows) {
    for (const [at, expectation] of expectations.entries()) {
      for (const index of checkStored(expectation, flow, atoms, domains).broken.members()) {
        if (!sent.has(first + index)) broken[at]?.push(first + index);
      }
    }
    first += ids.length;
  }
  return expectations.flatMap((expectation, at) => {
    const messages = broken[at] ?? [];
    if (messages.length === 0) return [];
    return [{ expectation: expectation.name, words: expectationWords(expectation), messages }];
  });
}
