import { cpuProfile, type Spent } from './profile';

/** Whether each figure is followed by where its time went: `--profile`. */
let isProfiled = false;
let spent: Spent[] = [];
let largest = 0;

export function profileAll(): void {
  isProfiled = true;
}

/** One line of the bench's table: the work, its result, and the figure to reach. */
export function figure(work: string, took: string, wanted = ''): void {
  console.log(`${work.padEnd(52)} ${took.padEnd(34)} ${wanted && `(to reach: ${wanted})`}`);
  largest = Math.max(largest, process.memoryUsage.rss());
  const where = whereOf(spent);
  spent = [];
  if (where !== '') console.log(`    of this thread: ${where}`);
}

/** Octets of memory at the largest, looked at after each figure; starts anew. */
export function largestMemory(): number {
  const most = largest;
  largest = 0;
  return most;
}

export function seconds(work: () => void): number {
  const stop = isProfiled ? cpuProfile() : null;
  const start = performance.now();
  work();
  const took = (performance.now() - start) / 1000;
  if (stop) spent.push(stop());
  return took;
}

export async function secondsOf(work: () => Promise<unknown>): Promise<number> {
  const stop = isProfiled ? cpuProfile() : null;
  const start = performance.now();
  await work();
  const took = (performance.now() - start) / 1000;
  if (stop) spent.push(stop());
  return took;
}

export const inMegabytes = (octets: number): string => `${(octets / 1024 / 1024).toFixed(0)} MB`;
export const milliseconds = (time: number): string => `${(time * 1000).toFixed(0)} ms`;

/** Functions that are named. */
const NAMED = 6;

function whereOf(profiles: readonly Spent[]): string {
  const sums = new Map<string, number>();
  for (const profile of profiles) {
    for (const [name, time] of profile) sums.set(name, (sums.get(name) ?? 0) + time);
  }
  const all = [...sums.values()].reduce((sum, time) => sum + time, 0);
  return [...sums]
    .sort(([, a], [, b]) => b - a)
    .slice(0, NAMED)
    .map(([name, time]) => `${name} ${((100 * time) / all).toFixed(0)}%`)
    .join(', ');
}
