import { compilePattern, octetsHold } from '../src/core/sieve/match/pattern';
import { parse } from '../src/core/sieve/parse';
import { figure, seconds } from './figures';

function script(megabytes: number): string {
  const rule = (n: number) =>
    `# Rule ${n}\nif allof (header :contains ["subject", "to"] ["oak beam ${n}", "lime"], not address :domain :is "from" "x${n}.example") {\n    addflag "\\\\Flagged";\n    fileinto "Suppliers/Oak ${n}";\n    stop;\n}\n`;
  const lines = ['require ["fileinto", "imap4flags"];\n'];
  let size = 0;
  for (let n = 0; size < megabytes * 1024 * 1024; n++) {
    const text = rule(n);
    lines.push(text);
    size += text.length;
  }
  return lines.join('');
}

export function benchParsing(): void {
  parse(script(0.5));
  for (const megabytes of [1.25, 2.5, 5, 10]) {
    const source = script(megabytes);
    const runs = Array.from({ length: 5 }, () => seconds(() => parse(source))).sort((a, b) => a - b);
    const rate = (place: number) => (source.length / 1024 / 1024 / (runs[place] as number)).toFixed(1);
    const measured = `best ${(runs[0] as number).toFixed(2)} s, ${rate(0)} MB/s; in the middle ${rate(2)} MB/s`;
    figure(`parse ${megabytes} MB`, measured, megabytes === 5 ? '20 MB/s' : '');
  }
}

/** `:matches` with many wildcards on values of growing length. */
export function benchMatching(): void {
  const pattern = compilePattern(`${'*a'.repeat(30)}*b*`);
  for (const length of [250_000, 500_000, 1_000_000]) {
    const value = 'a'.repeat(length);
    const best = Math.min(...[1, 2, 3, 4, 5].map(() => seconds(() => octetsHold(pattern, value))));
    figure(`thirty wildcards on ${length} octets`, `${(best * 1000).toFixed(2)} ms`);
  }
}
