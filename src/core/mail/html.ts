import { Tokenizer } from 'htmlparser2';
import { trimOf } from '../text/blanks';

/** Elements whose content nobody reads. In a head that is never closed the words begin all the same, as browsers have it. */
const SILENT = /^(script|style|title|template|noscript|iframe|noembed|noframes)$/;
/** Elements that begin a line, and end one. */
const BREAKING =
  /^(address|article|aside|blockquote|body|br|center|dd|div|dl|dt|fieldset|figcaption|figure|footer|form|h[1-6]|header|hr|html|li|main|menu|nav|ol|option|p|pre|section|select|table|tbody|tfoot|thead|tr|ul)$/;
/** Cells of a table stand side by side. */
const CELL = /^(td|th)$/;

/**
 * The words of an HTML text as a browser would show them, in one pass: tags go, references to characters are decoded, nothing
 * is ever rendered or fetched. Which tags were left open or closed in the wrong order makes no difference to the words.
 */
export const htmlToText = (html: string): string => readHtml(html).text;

export interface ReadWords {
  readonly text: string;
  /** Whether it has tags of more than 64 KB, or 10,000 tags that are open at once: no program writes such mail. */
  readonly odd: boolean;
}

/** The words, and how they were written. */
export function readHtml(html: string): ReadWords {
  const words = new WordReader(html);
  const tokenizer = new Tokenizer({ decodeEntities: true }, words);
  tokenizer.write(html);
  tokenizer.end();
  return { text: words.text(), odd: words.odd };
}

/** Characters of the longest tag, and how many may be open, before a text is said to be odd. */
const LONG_TAG = 64 * 1024;
const MANY_OPEN = 10_000;

/** Elements that hold nothing, so that they are never open. */
const VOID = /^(area|base|br|col|embed|hr|img|input|link|meta|param|source|track|wbr)$/;

/** Gathers the text between tags, as the tokenizer finds it. */
class WordReader {
  readonly #pieces: string[] = [];
  /** The silent element that is open: its text is skipped until it ends. */
  #silent: string | null = null;
  #open = 0;
  /** Where the current tag begins; null outside of tags. */
  #tag: number | null = null;
  odd = false;

  constructor(readonly html: string) {}

  text(): string {
    const lines = this.#pieces.join('').replace(/[ \t\n\f]+/g, (blanks) => (blanks.includes('\n') ? '\n' : ' '));
    return trimOf(' \n', lines);
  }

  ontext(start: number, end: number): void {
    // The tokenizer takes the beginning of a tag that never ends for text where it might have been a special one.
    const unfinished =
      end === this.html.length && this.html[start - 1] === '<' && /[a-z]/i.test(this.html[start] ?? '');
    if (this.#silent === null && !unfinished) this.#pieces.push(this.html.slice(start, end).replace(/[\r\n]+/g, ' '));
  }

  ontextentity(code: number): void {
    // White space that is written as a reference is white space still, but no line end of ours.
    if (this.#silent === null) this.#pieces.push(code === 10 || code === 13 ? ' ' : String.fromCodePoint(code));
  }

  oncdata(start: number, end: number): void {
    this.ontext(start, end);
  }

  onopentagname(start: number, end: number): void {
    const name = this.html.slice(start, end).toLowerCase();
    this.#tag = start;
    if (!VOID.test(name) && ++this.#open > MANY_OPEN) this.odd = true;
    if (this.#silent !== null) return;
    if (SILENT.test(name)) this.#silent = name;
    this.#separate(name);
  }

  onclosetag(start: number, end: number): void {
    const name = this.html.slice(start, end).trim().toLowerCase();
    if (this.#open > 0) this.#open--;
    if (this.#silent === name) this.#silent = null;
    else if (this.#silent === null) this.#separate(name);
  }

  onattribdata(): void {}
  onattribend(): void {}
  onattribentity(): void {}
  onattribname(): void {}
  oncomment(): void {}
  ondeclaration(): void {}
  onend(): void {
    this.onopentagend(this.html.length);
  }
  onopentagend(end: number): void {
    if (this.#tag !== null && end - this.#tag > LONG_TAG) this.odd = true;
    this.#tag = null;
  }
  onprocessinginstruction(): void {}
  onselfclosingtag(end: number): void {
    this.onopentagend(end);
  }

  #separate(name: string): void {
    if (BREAKING.test(name)) this.#pieces.push('\n');
    else if (CELL.test(name)) this.#pieces.push(' ');
  }
}
