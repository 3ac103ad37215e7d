import { Tokenizer } from 'htmlparser2';
import { trimOf } from '../text/blanks';

/** Elements whose content is not shown. In a head that is never closed, text starts the body, as in browsers. */
const SILENT = /^(script|style|title|template|noscript|iframe|noembed|noframes)$/;
/** Elements that start and end a line. */
const BREAKING =
  /^(address|article|aside|blockquote|body|br|center|dd|div|dl|dt|fieldset|figcaption|figure|footer|form|h[1-6]|header|hr|html|li|main|menu|nav|ol|option|p|pre|section|select|table|tbody|tfoot|thead|tr|ul)$/;
/** Cells of a table are side by side. */
const CELL = /^(td|th)$/;

/**
 * The text of HTML as a browser would show it, in one pass: tags are removed, character references decoded, nothing is
 * rendered or fetched. Unclosed and misnested tags make no difference to the text.
 */
export const htmlToText = (html: string): string => readHtml(html).text;

export interface ReadWords {
  readonly text: string;
  /** Whether it has tags of more than 64 KB, or 10,000 open tags: no program writes such mail. */
  readonly odd: boolean;
}

/** The text, and irregularities of its markup. */
export function readHtml(html: string): ReadWords {
  const words = new WordReader(html);
  const tokenizer = new Tokenizer({ decodeEntities: true }, words);
  tokenizer.write(html);
  tokenizer.end();
  return { text: words.text(), odd: words.odd };
}

/** Limits of a regular text: characters of the longest tag, and open tags. */
const LONG_TAG = 64 * 1024;
const MANY_OPEN = 10_000;

/** Void elements, which are never open. */
const VOID = /^(area|base|br|col|embed|hr|img|input|link|meta|param|source|track|wbr)$/;

/** Collects the text between tags, as the tokenizer reports it. */
class WordReader {
  readonly #pieces: string[] = [];
  /** The open hidden element: its text is skipped until it ends. */
  #silent: string | null = null;
  #open = 0;
  /** The start of the current tag; null outside tags. */
  #tag: number | null = null;
  odd = false;

  constructor(readonly html: string) {}

  text(): string {
    const lines = this.#pieces.join('').replace(/[ \t\n\f]+/g, (blanks) => (blanks.includes('\n') ? '\n' : ' '));
    return trimOf(' \n', lines);
  }

  ontext(start: number, end: number): void {
    // The tokenizer reports the beginning of an unclosed tag as text if it could have been a special one.
    const unfinished =
      end === this.html.length && this.html[start - 1] === '<' && /[a-z]/i.test(this.html[start] ?? '');
    if (this.#silent === null && !unfinished) this.#pieces.push(this.html.slice(start, end).replace(/[\r\n]+/g, ' '));
  }

  ontextentity(code: number): void {
    // White space written as a reference counts as white space, but not as a line end of ours.
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
