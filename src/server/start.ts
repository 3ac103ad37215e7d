import { unaudited } from './audit-results';
import { store } from './database/open';
import { runner } from './server';
import { startStandIn } from './stand-in';
import { takeUp } from './take-up';
import { warmUp } from './warm';

/**
 * Migrates the database, takes back what a killed process left behind, audits again what it had not come to or what another
 * build has audited, makes the first look quick, and ends threads when the server is ended.
 */
export function startServer(): void {
  const jobs = runner();
  takeUp(store());
  for (const id of unaudited(store())) jobs.start(id, { kind: 'simulate' });
  void startStandIn();
  const end = () => {
    void jobs.close().finally(() => process.exit(0));
  };
  // The development server builds each view when it is first asked for.
  const { PORT, NODE_ENV } = process.env;
  if (PORT && NODE_ENV === 'production') void warmUp(store(), `http://127.0.0.1:${PORT}`);
  process.once('SIGTERM', end);
  process.once('SIGINT', end);
}
