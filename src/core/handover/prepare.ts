import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { joined } from '../rules/words';
import { type FolderNames, faultsOfNames, foldersNamed, inFolders, NamesBack, nameThere } from './folder-names';
import { type Choices, listNamesFor, type Rewritten, rewriteFor } from './rewrite';
import { listsAsHere, referring } from './rewriting/extlists';
import type { Target } from './target';
import { requiresOf } from './verify';

/** A script for a target, with its differences. */
export interface Prepared extends Rewritten {
  readonly text: string;
  readonly octets: number;
  readonly requires: readonly string[];
  /** Limits of the target that the whole script exceeds, and folders that would be one, in plain words; they block the export. */
  readonly beyond: readonly string[];
  /** The assumed contents of the external lists it refers to. */
  readonly lists: ReadonlyMap<string, ReadonlySet<string>>;
  /** Folders that the rules of the script name, as the rules call them; a server need not create them. */
  readonly folders: readonly string[];
  /** From the names of folders in the script to those in the rules. */
  readonly names: NamesBack;
}

export function prepareScript(chain: Chain, target: Target, choices: Choices): Prepared {
  const rewritten = rewriteFor(chain, target, choices);
  const names = listNamesFor(target, choices);
  const folders = foldersNamed(rewritten.chain);
  const named = inFolders(referring(rewritten.chain, names), (name) => nameThere(name, choices.folders));
  const { script, text } = sieveFromChain(named, 'export', {
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
    beyond: [...beyondSize(octets, target), ...merged(folders, choices.folders)],
    lists: listsAsHere(chain.lists ?? [], names),
    folders,
    names: new NamesBack(folders, choices.folders),
  };
}

function beyondSize(octets: number, { limits }: Target): string[] {
  if (limits.octets === null || octets <= limits.octets) return [];
  return [`the script is ${octets} bytes long, and the server accepts at most ${limits.octets}`];
}

const merged = (folders: readonly string[], names: FolderNames): string[] =>
  faultsOfNames(folders, names).merged.map(
    ({ name, folders: own }) => `the folders ${joined(own, 'and')} would both be “${name}” on the server`,
  );
