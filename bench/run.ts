import { cpus } from 'node:os';
import { benchCommandLine } from './command-line';
import { figure } from './figures';
import { benchIntent } from './intent';
import { benchApplication } from './intent-application';
import { benchMatching, benchParsing } from './parsing';
import { benchReasoning } from './reasoning';
import { benchSimulation } from './simulation';
import { benchTidy } from './tidy';

/** Measured figures, not tests: npm run bench. A number as argument is the number of messages. */
const messages = Number(process.argv[2] ?? 100_000);
console.log(`machine: ${cpus().length} x ${cpus()[0]?.model ?? 'unknown'}, Node ${process.version}\n`);
benchParsing();
benchMatching();
benchCommandLine();
benchReasoning();
benchIntent();
await benchApplication();
benchTidy();
const half = await benchSimulation(messages / 2, false);
const whole = await benchSimulation(messages, true);
figure('growth: twice the messages take', `${(whole / half).toFixed(2)} times as long`, 'at most 2');
figure('memory of the process at its largest', `${(process.resourceUsage().maxRSS / 1024).toFixed(0)} MB`);
