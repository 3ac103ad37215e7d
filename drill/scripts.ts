import { pause, type Served } from './server';

/**
 * Scripts crafted to block a server: each must be answered within the time limit of a thread, while others are served.
 */

const times = <T>(count: number, make: (at: number) => T): T[] => Array.from({ length: count }, (_, at) => make(at));
const address = (at: number) => `"person${(at * 7919) % 100_003}@host${at % 977}.example"`;

const SCRIPTS: Readonly<Record<string, () => string>> = {
  'a key of 100,000 addresses': () => `if address "from" [${times(100_000, address).join(', ')}] { stop; }\n`,
  'two keys of 100,000 characters': () =>
    `if header :contains "subject" ["${'a'.repeat(100_000)}", "${'ab'.repeat(50_000)}"] { stop; }\n`,
  '100,000 question marks': () => `require "body";\nif body :text :matches "*${'?'.repeat(100_000)}b*" { stop; }\n`,
  'question marks between letters': () =>
    `require "body";\nif body :text :matches "*${'?a'.repeat(50_000)}b*" { stop; }\n`,
  'an expression that goes back and forth': () =>
    `require ["body", "regex"];\nif body :text :regex "(${'a?'.repeat(1500)})+b" { stop; }\n`,
  '5,000 branches within another': () =>
    `if true { ${times(5000, (at) => `${at > 0 ? 'elsif' : 'if'} header "subject" "x${at}" { stop; }`).join(' ')} }\n`,
  '2,000 variables, each made of the one before': () =>
    `require "variables";\n${times(300, (at) => `set "a${at}" "\${a${at - 1}}\${a${at - 1}}";`).join('\n')}\n`,
  'a million words that are no commands': () => 'a;'.repeat(1_000_000),
  '5,000 blocks within each other': () => `${'if true {'.repeat(5000)}keep;${'}'.repeat(5000)}`,
};

export interface Held {
  readonly script: string;
  readonly status: number;
  /** Seconds until the response. */
  readonly seconds: number;
  /** The longest time of the first page meanwhile, and for ten seconds of simulating after, in seconds. */
  readonly longest: number;
  /** The longest time of a page of its own audit, in seconds. */
  readonly slowest: number;
}

export async function* hostileScripts(server: Served): AsyncGenerator<Held> {
  for (const [script, text] of Object.entries(SCRIPTS)) {
    const id = await server.begin(script);
    const large = `From x@y.example Thu Jan  1 10:00:00 2026\nFrom: a@x.example\nSubject: ${'a'.repeat(900)}\n\n${'a'.repeat(1_000_000)}\n\n`;
    await server.send(id, 'INBOX.mbox', large);
    let done = false;
    let longest = 0;
    let slowest = 0;
    const watched = (async () => {
      while (!done) {
        const began = Date.now();
        await (await fetch(`${server.origin}/`)).arrayBuffer();
        longest = Math.max(longest, (Date.now() - began) / 1000);
        await pause(50);
      }
    })();
    const began = Date.now();
    const status = await server.send(id, 'rules.sieve', text());
    const seconds = (Date.now() - began) / 1000;
    await pause(10_000);
    const looks = ['chain', 'mail/0', 'findings', 'sheet'].map((look) => `/audits/${id}/${look}`);
    for (const look of [...looks, `/api/audits/${id}/sheet`]) {
      const asked = Date.now();
      await (await fetch(`${server.origin}${look}`)).arrayBuffer();
      slowest = Math.max(slowest, (Date.now() - asked) / 1000);
    }
    done = true;
    await watched.catch(() => {
      longest = Number.POSITIVE_INFINITY;
    });
    yield { script, status, seconds, longest, slowest };
    await server.json('DELETE', `/api/audits/${id}`);
  }
}
