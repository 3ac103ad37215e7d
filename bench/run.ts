import { cpus } from 'node:os';
import { benchImports } from './attachments';
import { benchCommandLine } from './command-line';
import { figure, inMegabytes, largestMemory, milliseconds, profileAll, seconds } from './figures';
import { benchIntent } from './intent';
import { benchApplication } from './intent-application';
import { benchMatching, benchParsing } from './parsing';
import { benchReasoning } from './reasoning';
import { benchSimulation } from './simulation';
import { benchTidy } from './tidy';

/**
 * Measured figures, not tests: npm run bench. A number as argument is the number of messages; with `--profile`, each
 * figure is followed by where its time went.
 */
const given = process.argv.slice(2);
const messages = Number(given.find((one) => /^\d+$/.test(one)) ?? 100_000);
if (given.includes('--profile')) profileAll();
console.log(`machine: ${cpus().length} x ${cpus()[0]?.model ?? 'unknown'}, Node ${process.version}\n`);
const multiplied = seconds(() => {
  let product = 1;
  for (let n = 0; n < 1e9; n++) product = (Math.imul(product, 3) + n) | 0;
  if (product === 1) throw new Error('another product');
});
figure('a thousand million multiplications, for comparison', milliseconds(multiplied));
benchParsing();
benchMatching();
benchCommandLine();
benchReasoning();
benchIntent();
await benchApplication();
benchTidy();
// The memory of what follows is looked at by itself.
largestMemory();
await benchImports();
const half = await benchSimulation(messages / 2, false);
const whole = await benchSimulation(messages, true);
figure('growth: twice the messages take', `${(whole / half).toFixed(2)} times as long`, 'at most 2');
figure('memory of the process at its largest', inMegabytes(process.resourceUsage().maxRSS * 1024));
