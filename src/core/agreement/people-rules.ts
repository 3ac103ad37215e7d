import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';

const root = join(import.meta.dirname, '../../..');
const sense = (folder: string) => {
  const path = join('src/core/audit/sense', folder);
  return readdirSync(join(root, path)).map((file) => join(path, file));
};

/** Scripts of the forms people write: the demo, and the corpus of sense. */
export const PEOPLE_SCRIPTS: readonly string[] = ['demo/rules.sieve', ...sense('sane'), ...sense('faulty')];

export const peopleChain = (script: string): Chain => chainFromSieve(readFileSync(join(root, script), 'utf8')).chain;
