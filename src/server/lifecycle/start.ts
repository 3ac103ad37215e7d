import { closeStore, databaseFile, store } from '../database/open';
import { DatabaseInUse } from '../database/owner';
import { keepReserve } from '../database/reserve';
import { type DatabaseTrouble, maybeTrouble } from '../database/trouble';
import { unaudited } from '../findings/results';
import { startStandIn } from '../handover/stand-in';
import { watchAddresses } from '../http/addresses';
import { forgetRunner, maybeRunner, runner } from './runner';
import { maybeStanding, setStanding } from './trouble';
import { upgradeStore } from './upgrade';
import { warmUp } from './warm-up';

/** Begins the server's work, and ends its threads when the server is ended. Ends the process where another one owns the database. */
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
 * Migrates the database, takes back what a killed process left behind, audits again what it had not come to or what another
 * build has audited, and makes the first look quick. Where the database cannot be worked with, that is said on every page, and
 * tried again until it can.
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

/** Milliseconds after which a database that could not be worked with is looked at again. */
const AGAIN = 2000;

/** Gives the database up until it can be worked with again. */
export function loseDatabase(trouble: DatabaseTrouble): void {
  const { message, remedy } = trouble;
  if (maybeStanding()?.what !== message) console.error(`${message} ${remedy}`);
  setStanding({ what: message, remedy });
  void maybeRunner()?.close();
  forgetRunner();
  closeStore();
  setTimeout(begin, AGAIN).unref();
}
