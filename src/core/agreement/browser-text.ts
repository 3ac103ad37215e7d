import { type DefaultTreeAdapterTypes, parse } from 'parse5';

/** Elements whose text a browser does not show. */
const HIDDEN = /^(script|style|title|template|noscript|iframe|noembed|noframes)$/;

/** The visible text of HTML in the tree that a browser builds (HTML standard). */
export function browserText(html: string): string {
  const words: string[] = [];
  const walk = (node: DefaultTreeAdapterTypes.Node): void => {
    if ('value' in node) words.push(node.value);
    if ('tagName' in node && HIDDEN.test(node.tagName)) return;
    if ('childNodes' in node) node.childNodes.forEach(walk);
  };
  walk(parse(html));
  return words.join('');
}
