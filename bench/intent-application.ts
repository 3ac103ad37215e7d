import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { writeDemo } from '../demo/write';
import { type Destination, destinationKey, destinationOf } from '../src/core/fates/destination';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { Chain } from '../src/core/rules/rule';
import { elementAt } from '../src/core/text/lookup';
import { getAudit } from '../src/server/audits/audits';
import { flowAtOnce } from '../src/server/chain/simulation';
import { fileBody } from '../src/server/gather/import-file';
import { evaluateChains } from '../src/server/jobs/chain-jobs';
import { perform } from '../src/server/jobs/perform';
import { ASKED } from '../src/server/jobs/plan-job';
import { maybeTraffic } from '../src/server/mail/traffic';
import { afterStep, getPlan } from '../src/server/plan/kept';
import { saidOf } from '../src/server/plan/said';
import { giveAnswer, scopesView } from '../src/server/plan/scopes';
import { openBench } from './application';
import { figure } from './figures';

const demo = (name: string) => fileURLToPath(new URL(`../demo/${name}.sieve`, import.meta.url));
const SHOWN = [0, 4, 8, 12, 16];

/**
 * How much of what the coordinator of the demo means its plan recovers in the application itself: imported files, and answers
 * with the scopes that are offered.
 */
export async function benchApplication(): Promise<void> {
  const { store, id, job, folder, bring, work, end } = openBench();
  await bring('rules.sieve', fileBody(demo('rules')));
  for (const one of writeDemo(folder, demo('rules'))) await bring(`${one.folder}.mbox`, fileBody(one.file), one.folder);
  await work();
  await perform(store, job, { kind: 'simulate' });
  const endsUnder = async (chain: Chain): Promise<(message: number) => Destination> => {
    await evaluateChains(store, job, [chain], null);
    const flow = flowAtOnce(store, getAudit(store, id), chain);
    if (!flow) throw new Error('the chain was not simulated');
    return (message) => destinationOf(flow.fates.fateOf(message));
  };
  const meant = await endsUnder(chainFromSieve(readFileSync(demo('intended'), 'utf8')).chain);
  const messages = [...(maybeTraffic(store, getAudit(store, id))?.members() ?? [])];
  const shares: string[] = [];
  let [first, longest, longestAll] = [0, 0, 0];
  for (let answers = 0; answers <= Math.max(...SHOWN); answers++) {
    const from = performance.now();
    // Until the questions about stored mail are known, and until those about example messages are.
    let [asking, all] = [0, 0];
    const report: typeof job.report = ({ phase }) => {
      const now = performance.now() - from;
      if (phase === ASKED) asking = now;
      else if (asking > 0 && all === 0) all = now;
    };
    await perform(store, { ...job, report }, { kind: 'plan' });
    if (answers === 0) first = asking;
    else [longest, longestAll] = [Math.max(longest, asking), Math.max(longestAll, all)];
    const audit = getAudit(store, id);
    const { steps, questions } = getPlan(store, audit, saidOf(store, id));
    const ends = await endsUnder(steps.reduce(afterStep, audit.draft));
    const right = messages.filter((one) => destinationKey(ends(one)) === destinationKey(meant(one))).length;
    if (SHOWN.includes(answers)) shares.push(`after ${answers} ${((100 * right) / messages.length).toFixed(1)}%`);
    const [question] = questions;
    if (!question) break;
    const { message } = question;
    const destination = meant(message);
    const { scopes, chosen } = scopesView(store, id, { message, destination });
    // The scope that is offered, or a narrower one where it would contradict an earlier answer.
    for (let at = chosen; at >= 0; at--) {
      const scope = elementAt(scopes, at).tests;
      if ('id' in giveAnswer(store, id, { message, destination, scope, name: `Answer ${answers + 1}` })) break;
    }
  }
  figure('intent of the demo recovered in the application', shares.join(', '), 'after 12 answers 99%');
  figure(
    '  its first questions; after an answer',
    `${inSeconds(first)}; at most ${inSeconds(longest)}, with example messages ${inSeconds(longestAll)}`,
    '3 s; 1 s',
  );
  end();
}

const inSeconds = (milliseconds: number): string => `${(milliseconds / 1000).toFixed(1)} s`;
