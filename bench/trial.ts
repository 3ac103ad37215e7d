import { type Destination, destinationOf } from '../src/core/fates/destination';
import { evaluateAtoms } from '../src/core/flow/atoms';
import { MemoryColumns } from '../src/core/flow/columns';
import { runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { envelopeOf, readMessage } from '../src/core/mail/message';
import type { Chain } from '../src/core/rules/rule';

/** A user with the rules that they mean and the rules that they have, and their mail. */
export interface Trial {
  readonly name: string;
  readonly intended: Chain;
  readonly faulty: Chain;
  readonly me: readonly string[];
  readonly stored: readonly {
    readonly raw: Uint8Array;
    readonly folder: string | null;
    readonly flags: readonly string[];
  }[];
  readonly fresh: readonly Uint8Array[];
}

export function destinationsIn(chain: Chain, columns: MemoryColumns): Destination[] {
  const flow = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
  return Array.from({ length: columns.count }, (_, at) => destinationOf(flow.fates.fateOf(at)));
}

export function columnsOf(raws: readonly Uint8Array[], [me]: readonly string[]): MemoryColumns {
  const columns = new MemoryColumns();
  for (const raw of raws) {
    const message = readMessage(raw);
    columns.add(message, envelopeOf(message, me ?? null));
  }
  return columns;
}
