import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { type Choices, listNamesFor, type Rewritten, rewriteFor } from './rewrite';
import { listsAsHere, referring } from './rewriting/extlists';
import type { Target } from './target';
import { requiresOf } from './verify';

/** A script for a target, with its differences. */
export interface Prepared extends Rewritten {
  readonly text: string;
  readonly octets: number;
  readonly requires: readonly string[];
  /** Limits of the target that the whole script exceeds, in plain words; they block the export. */
  readonly beyond: readonly string[];
  /** The assumed contents of the external lists it refers to. */
  readonly lists: ReadonlyMap<string, ReadonlySet<string>>;
  /** Folders the script files into, which a server need not create. */
  readonly folders: readonly string[];
}

export function prepareScript(chain: Chain, target: Target, choices: Choices): Prepared {
  const rewritten = rewriteFor(chain, target, choices);
  const names = listNamesFor(target, choices);
  const { script, text } = sieveFromChain(referring(rewritten.chain, names), 'export', {
    comments: rewritten.comments,
    sentences: true,
    requires: target.limits.strings,
  });
  const octets = new TextEncoder().encode(text).length;
  return {
    ...rewritten,
    text,
    octets,
    requires: requiresOf(script),
    beyond: beyondSize(octets, target),
    lists: listsAsHere(chain.lists ?? [], names),
    folders: foldersOf(rewritten.chain),
  };
}

function beyondSize(octets: number, { limits }: Target): string[] {
  if (limits.octets === null || octets <= limits.octets) return [];
  return [`the script is ${octets} bytes long, and the server accepts at most ${limits.octets}`];
}

function foldersOf({ entries }: Chain): string[] {
  const named = entries.flatMap((entry) =>
    entry.kind === 'rule' && entry.on
      ? entry.actions.flatMap((action) => (action.action === 'fileinto' ? [action.folder] : []))
      : [],
  );
  return [...new Set(named)].sort();
}
