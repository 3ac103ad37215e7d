/** One line of the bench's table: the work, its result, and the figure to reach. */
export function figure(work: string, took: string, wanted = ''): void {
  console.log(`${work.padEnd(52)} ${took.padEnd(34)} ${wanted && `(to reach: ${wanted})`}`);
}

export function seconds(work: () => void): number {
  const start = performance.now();
  work();
  return (performance.now() - start) / 1000;
}

export async function secondsOf(work: () => Promise<unknown>): Promise<number> {
  const start = performance.now();
  await work();
  return (performance.now() - start) / 1000;
}

export const milliseconds = (time: number): string => `${(time * 1000).toFixed(0)} ms`;
