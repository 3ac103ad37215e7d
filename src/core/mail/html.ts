const ENTITIES: Readonly<Record<string, string>> = {
  amp: '&',
  lt: '<',
  gt: '>',
  quot: '"',
  apos: "'",
  nbsp: ' ',
  copy: '©',
  reg: '®',
  euro: '€',
  auml: 'ä',
  ouml: 'ö',
  uuml: 'ü',
  Auml: 'Ä',
  Ouml: 'Ö',
  Uuml: 'Ü',
  szlig: 'ß',
  eacute: 'é',
  egrave: 'è',
  agrave: 'à',
  ccedil: 'ç',
  ndash: '–',
  mdash: '—',
  hellip: '…',
  laquo: '«',
  raquo: '»',
};

/** Elements whose content nobody reads. */
const SILENT = /^(script|style|head|title|template|noscript)$/;
/** Elements that end a line. */
const BREAKING = /^(br|p|div|tr|li|h[1-6]|table|ul|ol|blockquote|hr)$/;

/** The words of an HTML text, in one pass over it: tags go, entities are decoded, nothing is ever rendered. */
export function htmlToText(html: string): string {
  const pieces: string[] = [];
  let at = 0;
  let silent: string | null = null;
  while (at < html.length) {
    const open = html.indexOf('<', at);
    const stop = open < 0 ? html.length : open;
    if (silent === null && stop > at) pieces.push(decodeEntities(html.slice(at, stop)));
    if (open < 0) break;
    if (html.startsWith('<!--', open)) {
      const end = html.indexOf('-->', open + 4);
      at = end < 0 ? html.length : end + 3;
      continue;
    }
    const close = html.indexOf('>', open);
    const end = close < 0 ? html.length : close;
    const name = /^\/?([a-z][a-z0-9]*)/i.exec(html.slice(open + 1, open + 20));
    if (!name) {
      // A lone < is text.
      if (silent === null) pieces.push('<');
      at = open + 1;
      continue;
    }
    const tag = (name[1] as string).toLowerCase();
    const closing = name[0].startsWith('/');
    if (silent === null && !closing && SILENT.test(tag) && html[end - 1] !== '/') silent = tag;
    else if (silent === tag && closing) silent = null;
    if (silent === null && BREAKING.test(tag)) pieces.push('\n');
    at = end + 1;
  }
  return pieces
    .join('')
    .replace(/[ \t\r\f]+/g, ' ')
    .replace(/ ?\n[ \n]*/g, '\n')
    .trim();
}

function decodeEntities(text: string): string {
  if (!text.includes('&')) return text;
  return text.replace(/&(#\d{1,7}|#x[0-9a-f]{1,6}|[a-z]{2,8});/gi, (whole, name: string) => {
    if (!name.startsWith('#')) return ENTITIES[name] ?? whole;
    const code = /^#x/i.test(name) ? Number.parseInt(name.slice(2), 16) : Number(name.slice(1));
    const valid = code > 0 && code < 0x110000 && (code < 0xd800 || code > 0xdfff);
    return valid ? String.fromCodePoint(code) : '\ufffd';
  });
}
