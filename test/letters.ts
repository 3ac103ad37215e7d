import { expect } from 'vitest';
import { auditChain } from '../src/core/audit/catalogue';
import { MailGatherer, trafficIn, valued } from '../src/core/audit/stored';
import { type Atom, evaluateAtoms } from '../src/core/flow/atoms';
import { MemoryColumns } from '../src/core/flow/columns';
import { amongTraffic } from '../src/core/flow/conditions';
import { runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { envelopeOf, readMessage } from '../src/core/mail/message';
import { type PlanInput, Planner } from '../src/core/plan/plan';
import { chainFromSieve } from '../src/core/rules/from-sieve';

const ME = 'kit@home.example';

/** Messages of one sender in one folder, with a number behind their subject. */
export interface Letters {
  readonly count: number;
  readonly from: string;
  readonly subject: string;
  readonly folder: string;
}

/** A planner for rules over letters that arrived a day after each other, in the order given. */
export function plannerOver(script: string, letters: readonly Letters[]) {
  const { chain, diagnostics } = chainFromSieve(`require ["fileinto", "imap4flags", "copy"];\n${script}`);
  expect(diagnostics).toEqual([]);
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  for (const { count, from, subject, folder } of letters) {
    for (let at = 0; at < count; at++) {
      const number = columns.count;
      const date = new Date(Date.UTC(2026, 0, 1 + number)).toUTCString().replace('GMT', '+0000');
      const fields = [`From: ${from}`, `To: ${ME}`, `Subject: ${subject} ${at}`, `Date: ${date}`];
      const text = `${fields.join('\r\n')}\r\nMessage-ID: <${number}@home.example>\r\n\r\nText.\r\n`;
      const message = readMessage(new TextEncoder().encode(text));
      columns.add(message, envelopeOf(message, ME));
      gatherer.add({ message, folder, flags: ['\\seen'] });
    }
  }
  const stored = gatherer.mail([ME]);
  const evaluate = (wanted: readonly Atom[]) => amongTraffic(evaluateAtoms(wanted, columns), trafficIn(stored));
  const atoms = evaluate(atomsOf(chain));
  const flow = runFlow(chain, atoms, columns.count);
  const { findings } = auditChain({ chain, flow, atoms, mail: stored });
  const input: PlanInput = { chain, mail: valued(stored), atoms, evaluate, findings };
  return { input, columns, planner: new Planner(input) };
}
