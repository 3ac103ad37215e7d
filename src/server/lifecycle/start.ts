import { closeStore, databaseFile, store } from '../database/open';
import { DatabaseInUse } from '../database/owner';
import { keepReserve } from '../database/reserve';
import { type DatabaseTrouble, maybeTrouble } from '../database/trouble';
import { unaudited } from '../findings/results';
import { watchAddresses } from '../http/addresses';
import { startStandIn } from '../mailbox/stand-in';
import { forgetRunner, maybeRunner, runner } from './runner';
import { maybeStanding, setStanding } from './trouble';
import { upgradeStore } from './upgrade';
import { warmUp } from './warm-up';

/**
 * Starts the server's work, and stops its threads when the server stops. Exits if another process owns the database.
 */
export function startServer(): void {
  watchAddresses();
  try {
    begin();
  } catch (error) {
    if (!(error instanceof DatabaseInUse)) throw error;
    console.error(error.message);
    process.exit(1);
  }
  void startStandIn();
  const end = () => {
    void Promise.resolve(maybeRunner()?.close()).finally(() => process.exit(0));
  };
  process.once('SIGTERM', end);
  process.once('SIGINT', end);
}

/**
 * Migrates the database, rolls back what a killed process left, audits whatever has no current audit, and warms up the
 * views. If the database is unusable, every page says so, and this is retried until it works.
 */
function begin(): void {
  try {
    const jobs = runner();
    upgradeStore(store());
    for (const id of unaudited(store())) jobs.start(id, { kind: 'simulate' });
    setStanding(null);
    keepReserve(databaseFile());
  } catch (error) {
    const trouble = maybeTrouble(error, databaseFile());
    if (!trouble) throw error;
    loseDatabase(trouble);
    return;
  }
  // The development server builds each view when it is first asked for.
  const { PORT, NODE_ENV } = process.env;
  if (PORT && NODE_ENV === 'production') void warmUp(store(), `http://127.0.0.1:${PORT}`).catch(console.error);
}

/** Milliseconds between two attempts to open an unusable database. */
const AGAIN = 2000;

/** Releases the database until it is usable again. */
export function loseDatabase(trouble: DatabaseTrouble): void {
  const { message, remedy } = trouble;
  if (maybeStanding()?.what !== message) console.error(`${message} ${remedy}`);
  setStanding({ what: message, remedy });
  void maybeRunner()?.close();
  forgetRunner();
  closeStore();
  setTimeout(begin, AGAIN).unref();
}
