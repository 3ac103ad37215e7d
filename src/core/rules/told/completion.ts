/** What is known of the stored mail, to complete a line that is being typed. */
export interface Known {
  readonly folders: readonly string[];
  /** Addresses and domains. */
  readonly senders: readonly string[];
  readonly lists: readonly string[];
}

export interface Completions {
  /** Where the word that is completed begins. */
  readonly from: number;
  readonly options: readonly string[];
}

const MOST = 8;
const NONE: Completions = { from: 0, options: [] };

const FOLDER = /(?:\b(?:into|folder|in|to)\s+(?:(?:the|my)\s+)?(?:folder\s+)?|(?:->|=>|→)\s*)["“]?([^"“”,;]*)$/i;
const LIST = /\blist(?:\s+(?:is|contains))?\s+["“]?([^\s"“”,;]*)$/i;
const PERSON = /(?:^|\b(?:from|by|to|cc|or|and|not|except)\s+|[,;]\s*)([^\s"“”,;]+)$/i;

/** Endings of a line up to its last word: folders, mailing lists, addresses and domains that begin as it does. */
export function completionsOf(line: string, { folders, senders, lists }: Known): Completions {
  const list = LIST.exec(line);
  if (list) return beginning(line, list[1] ?? '', lists, (id) => id);
  const folder = FOLDER.exec(line);
  const named = folder && beginning(line, folder[1] ?? '', folders, quotedIfNeeded);
  if (named && named.options.length > 0) return named;
  const person = PERSON.exec(line);
  if (!person) return NONE;
  const people = senders.map((one) => (one.includes('@') ? one : `@${one}`));
  return beginning(line, person[1] ?? '', people, (one) => one);
}

/** At least one letter is typed, and what is typed is not yet all. */
function beginning(line: string, typed: string, all: readonly string[], said: (one: string) => string): Completions {
  const start = typed.toLowerCase();
  if (start === '') return NONE;
  const fits = (one: string) => {
    const lower = one.toLowerCase();
    return lower !== start && (lower.startsWith(start) || lower.startsWith(`@${start}`) || lower.includes(`/${start}`));
  };
  const options = all.filter(fits).slice(0, MOST).map(said);
  const quote = /["“]$/.test(line.slice(0, line.length - typed.length)) ? 1 : 0;
  return { from: line.length - typed.length - quote, options };
}

const quotedIfNeeded = (folder: string): string => (/[\s,;:]/.test(folder) ? `“${folder}”` : folder);
