import { type Profiler, Session } from 'node:inspector';

/** Microseconds by function, without those that it calls. */
export type Spent = ReadonlyMap<string, number>;

/** Starts a profile of this thread; the returned function ends it. One at a time. */
export function cpuProfile(): () => Spent {
  const session = new Session();
  session.connect();
  session.post('Profiler.enable');
  session.post('Profiler.start');
  return () => {
    let spent: Spent = new Map();
    // Of the own thread, it is answered at once.
    session.post('Profiler.stop', (_, { profile }) => {
      spent = spentIn(profile);
    });
    session.disconnect();
    return spent;
  };
}

/** Taking the profile itself. */
const OURS: ReadonlySet<string> = new Set(['dispatch', 'post']);

function spentIn({ nodes, samples = [], timeDeltas = [] }: Profiler.Profile): Spent {
  const names = new Map(nodes.map(({ id, callFrame }) => [id, callFrame.functionName || 'a nameless function']));
  const spent = new Map<string, number>();
  for (const [at, sample] of samples.entries()) {
    const name = names.get(sample) ?? '';
    if (OURS.has(name)) continue;
    spent.set(name, (spent.get(name) ?? 0) + (timeDeltas[at] ?? 0));
  }
  return spent;
}
