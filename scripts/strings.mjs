// Prints every text that a user may read: the strings of the interface, the report, the command line and the server's
// answers, one a line as FILE:LINE<tab>TEXT. Values that are filled in stand as {…}. `node scripts/strings.mjs [FOLDER...]`
//
// A string counts as text when it is the text of an element, or has at least two words. What the program says to itself
// is left out: module names, class names, SQL, and strings in tests.
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import ts from 'typescript';

const given = process.argv.slice(2);
const folders = given.length > 0 ? given : ['src/ui', 'src/app', 'src/cli', 'src/server', 'src/core', 'src/files'];
const MORE =
  given.length > 0
    ? []
    : [
        'src/views.ts',
        'src/managesieve',
        'src/imap',
        'src/net',
        'src/standins',
        'demo/seed.ts',
        'scripts/demo.mjs',
        'scripts/install.mjs',
        'scripts/build.mjs',
      ];

const isSource = (name) => /\.(tsx?|mjs)$/.test(name) && !/\.test\.tsx?$/.test(name) && !name.endsWith('.d.ts');
const filesOf = (path) =>
  isSource(path)
    ? [path]
    : readdirSync(path, { withFileTypes: true, recursive: true })
        .filter((entry) => entry.isFile() && isSource(entry.name))
        .map((entry) => join(entry.parentPath, entry.name))
        .sort();

const isWords = (text) => /[\p{L}\d}…)"”,.:;] +[\p{L}\d{("“]/u.test(text) && /\p{L}{2}/u.test(text);
const isSql = (text) => /\b(SELECT|INSERT|UPDATE|DELETE|CREATE|PRAGMA|BEGIN|ATTACH)\b/.test(text);
const UNREAD = new Set(['className', 'd', 'viewBox', 'key', 'href', 'id', 'transform', 'style']);

/** The text of a template, with values as {…}. */
const templateText = (node) => node.head.text + node.templateSpans.map((span) => `{…}${span.literal.text}`).join('');

/** The text of an element and its children, with values as {…}. */
function wordsOf(node) {
  if (ts.isJsxText(node)) return node.text;
  if (ts.isJsxElement(node) || ts.isJsxFragment(node)) return node.children.map(wordsOf).join('');
  if (!ts.isJsxExpression(node) || !node.expression) return '';
  return ts.isStringLiteralLike(node.expression) ? node.expression.text : '{…}';
}

const isElement = (node) => ts.isJsxElement(node) || ts.isJsxFragment(node);
/** Whether an element has text of its own beside its other children. */
const hasText = (node) => node.children.some((child) => ts.isJsxText(child) && /\p{L}/u.test(child.text));

function textOf(node) {
  // A sentence with links is read as one; its children are not read again.
  if (isElement(node) && hasText(node) && !(isElement(node.parent) && hasText(node.parent)))
    return { text: wordsOf(node), always: true };
  if (ts.isTemplateExpression(node)) return { text: templateText(node), always: false };
  if (ts.isStringLiteralLike(node)) {
    const { parent } = node;
    if (ts.isImportDeclaration(parent) || ts.isExportDeclaration(parent) || ts.isLiteralTypeNode(parent)) return null;
    if (ts.isJsxAttribute(parent))
      return { text: node.text, always: !UNREAD.has(parent.name.getText()) && /^[A-Z]/.test(node.text) };
    return {
      text: node.text,
      always:
        ts.isPropertyAssignment(parent) &&
        /^(title|label|name|meaning)$/.test(parent.name.getText()) &&
        /^[A-Z]/.test(node.text),
    };
  }
  return null;
}

function* textsOf(file) {
  const source = ts.createSourceFile(
    file,
    readFileSync(file, 'utf8'),
    ts.ScriptTarget.Latest,
    true,
    file.endsWith('x') ? ts.ScriptKind.TSX : ts.ScriptKind.TS,
  );
  const found = [];
  const visit = (node) => {
    const read = textOf(node);
    if (read) {
      const text = read.text.replace(/\s+/g, ' ').trim();
      if (text !== '' && (read.always || isWords(text)) && !isSql(text)) {
        found.push(`${file}:${source.getLineAndCharacterOfPosition(node.getStart()).line + 1}\t${text}`);
      }
    }
    ts.forEachChild(node, visit);
  };
  visit(source);
  yield* found;
}

for (const path of [...folders, ...MORE]) {
  for (const file of filesOf(path)) for (const line of textsOf(file)) console.log(line);
}
