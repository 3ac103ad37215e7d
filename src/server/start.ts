import { runner } from './server';

/** Migrates the database, takes back what a killed process left behind, and ends threads when the server is ended. */
export function startServer(): void {
  const jobs = runner();
  const end = () => {
    void jobs.close().finally(() => process.exit(0));
  };
  process.once('SIGTERM', end);
  process.once('SIGINT', end);
}
