import { escapeUTF8 } from 'entities';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { commands } from './language/table';
import { readNumber } from './tokens';
import type { Argument, Block, CommandNode, Comment, Script, Statement, StringArgument, TestNode } from './tree';

/**
 * Sieve in XML (RFC 5784). Details without a place in its schema, such as the form of a string or comments among
 * arguments, are in attributes and elements of a namespace of our own, which other readers may skip (RFC 5784 section
 * 4.4); so reading restores the identical tree, except for positions.
 */
const SIEVE = 'urn:ietf:params:xml:ns:sieve';
const OWN = 'urn:x-ysomeris:sieve-tree';

export function writeXml(script: Script): string {
  const lines = ['<?xml version="1.0" encoding="UTF-8"?>', `<sieve xmlns="${SIEVE}" xmlns:own="${OWN}">`];
  writeStatements(script.commands, script.source, '  ', lines);
  for (const comment of script.trailing) lines.push(`  ${commentXml(comment, 'trailing')}`);
  lines.push('</sieve>');
  return `${lines.join('\n')}\n`;
}

function writeStatements(statements: readonly Statement[], source: string, indent: string, lines: string[]): void {
  for (const statement of statements) {
    for (const comment of statement.leading) lines.push(indent + commentXml(comment, 'leading'));
    if (statement.kind === 'unreadable') {
      const words = source.slice(statement.start, statement.end);
      lines.push(`${indent}<own:unreadable${textAttribute(words)}>${safeText(words)}</own:unreadable>`);
    } else writeCommand(statement, source, indent, lines);
  }
}

function writeCommand(node: CommandNode, source: string, indent: string, lines: string[]): void {
  const definition = commands.get(node.name);
  const element = definition?.role === 'action' ? 'action' : 'control';
  const own = [
    ...(node.listed ? [' own:listed="true"'] : []),
    // The presence of a block is recorded only if the name does not imply it.
    ...(Boolean(node.block) === Boolean(definition?.block) ? [] : [` own:block="${node.block !== null}"`]),
  ].join('');
  const inner = indent + INDENT;
  lines.push(`${indent}<${element} name="${toEntities(node.name)}"${own}>`);
  for (const comment of node.inner) lines.push(inner + commentXml(comment, 'inner'));
  for (const argument of node.args) lines.push(inner + argumentXml(argument));
  for (const test of node.tests) writeTest(test, inner, lines);
  if (node.block) {
    writeStatements(node.block.commands, source, inner, lines);
    for (const comment of node.block.trailing) lines.push(inner + commentXml(comment, 'trailing'));
  }
  lines.push(`${indent}</${element}>`);
}

const INDENT = '  ';

function writeTest(test: TestNode, indent: string, lines: string[]): void {
  lines.push(`${indent}<test name="${toEntities(test.name)}"${test.listed ? ' own:listed="true"' : ''}>`);
  for (const argument of test.args) lines.push(indent + INDENT + argumentXml(argument));
  for (const child of test.tests) writeTest(child, indent + INDENT, lines);
  lines.push(`${indent}</test>`);
}

function argumentXml(argument: Argument): string {
  switch (argument.kind) {
    case 'string':
      return stringXml(argument);
    case 'string-list':
      return `<list>${argument.items.map(stringXml).join('')}</list>`;
    case 'number': {
      const unit = argument.quantifier ? { K: 1024, M: 1024 ** 2, G: 1024 ** 3 }[argument.quantifier] : 1;
      return `<num>${argument.value / unit}${argument.quantifier ?? ''}</num>`;
    }
    case 'tag':
      return `<tag>${argument.name}</tag>`;
    default:
      argument satisfies never;
      throw new Error('unknown argument');
  }
}

function stringXml({ value, form }: StringArgument): string {
  const multiline = form === 'multiline' ? ' own:form="multiline"' : '';
  return `<str${multiline}${textAttribute(value)}>${safeText(value)}</str>`;
}

function commentXml({ form, text }: Comment, place: 'leading' | 'inner' | 'trailing'): string {
  return `<comment own:form="${form}" own:place="${place}"${textAttribute(text)}>${safeText(text)}</comment>`;
}

/** Control characters and lone surrogates (XML 1.0 section 2.2). */
const IMPOSSIBLE = new RegExp(
  [
    '[\\u0000-\\u0008\\u000b\\u000c\\u000e-\\u001f\\ufffe\\uffff]',
    '[\\ud800-\\udbff](?![\\udc00-\\udfff])',
    '(?<![\\ud800-\\udbff])[\\udc00-\\udfff]',
  ].join('|'),
);

/** Text with characters that XML 1.0 cannot contain is written as JSON, and marked as such. */
const textAttribute = (text: string): string => (IMPOSSIBLE.test(text) ? ' own:text="json"' : '');
const safeText = (text: string): string =>
  toEntities(IMPOSSIBLE.test(text) ? JSON.stringify(text).replace(/[^\x20-\x7e]/g, unicodeEscape) : text);

const unicodeEscape = (character: string): string => `\\u${character.charCodeAt(0).toString(16).padStart(4, '0')}`;

/** White space is written so that readers do not fold it (XML 1.0 sections 2.11 and 3.3.3). */
function toEntities(text: string): string {
  return escapeUTF8(text).replace(/[\r\n\t]/g, (blank) => `&#${blank.charCodeAt(0)};`);
}

export type ReadXml =
  | { readonly ok: true; readonly script: Script }
  | { readonly ok: false; readonly line: number; readonly column: number; readonly message: string };

/** An element as the parser returns it: its content under its name, its attributes under `:@`. */
type Node = { readonly [name: string]: unknown };

class XmlFault extends Error {}

/** Reads a script from XML; never throws. Document types are rejected: only the five entities of XML are expanded. */
export function readXml(text: string): ReadXml {
  const valid = XMLValidator.validate(text);
  if (valid !== true) return { ok: false, line: valid.err.line, column: valid.err.col, message: valid.err.msg };
  if (/<!DOCTYPE/i.test(text)) return { ok: false, line: 1, column: 1, message: 'a document type is not allowed' };
  try {
    const nodes: readonly Node[] = PARSER.parse(text);
    const root = nodes.find((node) => 'sieve' in node);
    if (!root) throw new XmlFault('the outermost element is not <sieve> (RFC 5784 section 4.1)');
    const { statements, trailing } = readStatements(children(root, 'sieve'), 0);
    return { ok: true, script: { kind: 'script', source: '', commands: statements, trailing } };
  } catch (error) {
    // The parser reports its own limits as plain errors.
    return { ok: false, line: 1, column: 1, message: error instanceof Error ? error.message : String(error) };
  }
}

const PARSER = new XMLParser({
  preserveOrder: true,
  ignoreAttributes: false,
  attributeNamePrefix: '',
  parseTagValue: false,
  parseAttributeValue: false,
  trimValues: false,
  htmlEntities: false,
  processEntities: false,
});

const NOWHERE = { start: 0, end: 0 };
const DEPTH_LIMIT = 100;

function readStatements(nodes: readonly Node[], depth: number): { statements: Statement[]; trailing: Comment[] } {
  if (depth > DEPTH_LIMIT) throw new XmlFault(`nested more than ${DEPTH_LIMIT} deep`);
  const statements: Statement[] = [];
  const trailing: Comment[] = [];
  let leading: Comment[] = [];
  for (const node of nodes) {
    const name = elementName(node);
    if (name === 'comment') {
      const comment = readComment(node);
      if (attribute(node, 'place') === 'trailing') trailing.push(comment);
      else leading.push(comment);
    } else if (name === 'control' || name === 'action') {
      statements.push(readCommand(node, name, leading, depth));
      leading = [];
    } else if (name === 'own:unreadable') {
      throw new XmlFault('it contains text that is not Sieve');
    }
  }
  return { statements, trailing: [...leading, ...trailing] };
}

function readCommand(node: Node, element: string, leading: readonly Comment[], depth: number): CommandNode {
  const name = (plainAttribute(node, 'name') ?? '').toLowerCase();
  if (!NAME.test(name)) throw new XmlFault(`a <${element}> has no usable name (RFC 5784 section 4.1)`);
  const inside = children(node, element);
  const isInner = (child: Node) => elementName(child) === 'comment' && attribute(child, 'place') === 'inner';
  const hasBlock = attribute(node, 'block') ?? String(commands.get(name)?.block ?? false);
  const rest = inside.filter(
    (child) => /^(comment|control|action|own:unreadable)$/.test(elementName(child)) && !isInner(child),
  );
  if (hasBlock !== 'true' && rest.some((child) => elementName(child) !== 'comment')) {
    throw new XmlFault(`${name} takes no block`);
  }
  return {
    kind: 'command',
    name,
    args: readArguments(inside),
    tests: inside.filter((child) => elementName(child) === 'test').map((child) => readTestXml(child, depth + 1)),
    listed: attribute(node, 'listed') === 'true',
    block: hasBlock === 'true' ? readBlock(rest, depth) : null,
    leading,
    inner: inside.filter(isInner).map(readComment),
    ...NOWHERE,
  };
}

function readBlock(nodes: readonly Node[], depth: number): Block {
  const { statements, trailing } = readStatements(nodes, depth + 1);
  return { kind: 'block', commands: statements, trailing, ...NOWHERE };
}

function readTestXml(node: Node, depth: number): TestNode {
  if (depth > DEPTH_LIMIT) throw new XmlFault(`nested more than ${DEPTH_LIMIT} deep`);
  const name = (plainAttribute(node, 'name') ?? '').toLowerCase();
  if (!NAME.test(name)) throw new XmlFault('a <test> has no usable name (RFC 5784 section 4.1)');
  const inside = children(node, 'test');
  const inner = inside.filter((child) => elementName(child) === 'test').map((child) => readTestXml(child, depth + 1));
  // Without our own attribute, several tests, and those of anyof and allof, are in parentheses.
  const listed = attribute(node, 'listed') === 'true' || inner.length > 1 || /^(anyof|allof)$/.test(name);
  const parts = { args: readArguments(inside), tests: inner, listed };
  return { kind: 'test', name, ...parts, ...NOWHERE };
}

const NAME = /^[a-z_][a-z0-9_]*$/;

function readArguments(nodes: readonly Node[]): Argument[] {
  return nodes.flatMap((node): Argument[] => {
    switch (elementName(node)) {
      case 'str':
        return [readString(node)];
      case 'list': {
        const items = children(node, 'list').filter((child) => elementName(child) === 'str');
        return [{ kind: 'string-list', items: items.map(readString), ...NOWHERE }];
      }
      case 'num':
        return [numberOf(textOf(node, 'num'))];
      case 'tag': {
        const name = textOf(node, 'tag').trim().replace(/^:/, '').toLowerCase();
        if (!NAME.test(name)) throw new XmlFault(`"${name}" is not a tag`);
        return [{ kind: 'tag', name, ...NOWHERE }];
      }
      default:
        return [];
    }
  });
}

function numberOf(text: string): Argument {
  const read = readNumber(text.trim());
  if (!read) throw new XmlFault(`"${text}" is not a number`);
  return { kind: 'number', ...read, ...NOWHERE };
}

function readString(node: Node): StringArgument {
  const form = attribute(node, 'form') === 'multiline' ? 'multiline' : 'quoted';
  return { kind: 'string', value: textOf(node, 'str'), form, ...NOWHERE };
}

function readComment(node: Node): Comment {
  const form = attribute(node, 'form') === 'bracket' ? 'bracket' : 'hash';
  return { form, text: textOf(node, 'comment'), ...NOWHERE };
}

const elementName = (node: Node): string => Object.keys(node).find((name) => name !== ':@') ?? '';

function children(node: Node, name: string): Node[] {
  const inner = node[name];
  return Array.isArray(inner) ? inner : [];
}

const attribute = (node: Node, name: string): string | null => plainAttribute(node, `own:${name}`);

function plainAttribute(node: Node, name: string): string | null {
  const attributes = node[':@'];
  const value = Object.entries(attributes ?? {}).find(([own]) => own === name)?.[1];
  return value === undefined ? null : fromEntities(String(value));
}

function textOf(node: Node, name: string): string {
  const raw = children(node, name)
    .map((child) => String(child['#text'] ?? ''))
    .join('');
  const text = fromEntities(raw);
  if (attribute(node, 'text') !== 'json') return text;
  try {
    return String(JSON.parse(text));
  } catch {
    throw new XmlFault('a text that should be JSON is not');
  }
}

const ENTITIES: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };

function fromEntities(text: string): string {
  return text.replace(/&(#\d{1,7}|#x[0-9a-f]{1,6}|[a-z]+);/gi, (whole, name: string) => {
    if (!name.startsWith('#')) return ENTITIES[name] ?? whole;
    const code = /^#x/i.test(name) ? Number.parseInt(name.slice(2), 16) : Number(name.slice(1));
    return code <= 0x10ffff ? String.fromCodePoint(code) : whole;
  });
}
