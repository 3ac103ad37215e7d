/**
 * Runs at the start of the server; code for Node is in a separate file, since this one is also loaded by other
 * runtimes.
 */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME === 'nodejs') {
    const { startServer } = await import('./server/lifecycle/start');
    startServer();
  }
}
