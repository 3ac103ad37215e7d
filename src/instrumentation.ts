/** At the start of the server; what needs Node stands in a file of its own, since this one is read for other runtimes too. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME === 'nodejs') {
    const { startServer } = await import('./server/lifecycle/start');
    startServer();
  }
}
