import { elementAt, memberOf } from '../../text/lookup';
import type { Span } from '../../text/span';
import { type Diagnostic, diagnostic } from '../diagnostics';
import { expand, hasReferences, type Run } from '../interpret/run';
import {
  type Argument,
  type CommandNode,
  nameSpan,
  type StringArgument,
  type StringListArgument,
  type TestNode,
} from '../tree';
import type { Parameter, Setup, Signature, TagDefinition, TagGroup } from './definition';
import { nearest } from './nearest';

/** The arguments of one command or test, sorted by meaning. */
export class Bound {
  constructor(
    readonly tags: ReadonlyMap<string, { readonly tag: TagDefinition; readonly value: Argument | null }>,
    readonly values: ReadonlyMap<string, Argument>,
    /** Whether strings may contain references to variables. */
    readonly variables: boolean,
  ) {}

  /** The given tag of a group, without the colon, or null. */
  tag(group: string): string | null {
    return this.tags.get(group)?.tag.tag ?? null;
  }

  /** The given tag of a group, if it is one of these; else null. */
  tagAmong<Name extends string>(group: string, names: readonly Name[]): Name | null {
    return memberOf(names, this.tag(group));
  }

  has(name: string): boolean {
    return this.values.has(name);
  }

  /** All values of a string or string list; throws if it was not bound, which the checker would have rejected. */
  strings(name: string): readonly string[] {
    return this.items(name).map((item) => item.value);
  }

  items(name: string): readonly StringArgument[] {
    const argument = this.argument(name);
    if (argument.kind === 'string') return [argument];
    if (argument.kind === 'string-list') return argument.items;
    throw new Error(`the argument ${name} is a ${argument.kind}, not strings`);
  }

  /** Whether a string contains references to variables, so that it is known only at run time. */
  varies(value: string): boolean {
    return this.variables && hasReferences(value);
  }

  /** The values of strings at run time. */
  texts(name: string): (run: Run) => readonly string[] {
    const given = this.strings(name);
    if (!given.some((value) => this.varies(value))) return () => given;
    return (run) => given.map((text) => expand(text, run));
  }

  /** The same binding, with the values of one argument mapped wherever they are read. */
  mapping(name: string, change: (values: readonly string[]) => readonly string[]): Bound {
    const texts = this.texts(name);
    const mapped = new Bound(this.tags, this.values, this.variables);
    mapped.texts = (asked) => {
      if (asked !== name) return this.texts(asked);
      const fixed = this.strings(name).some((value) => this.varies(value)) ? null : change(this.strings(name));
      return (run) => fixed ?? change(texts(run));
    };
    return mapped;
  }

  text(name: string): (run: Run) => string {
    const texts = this.texts(name);
    return (run) => texts(run)[0] ?? '';
  }

  string(name: string): string {
    return elementAt(this.strings(name), 0);
  }

  number(name: string): number {
    const argument = this.argument(name);
    if (argument.kind !== 'number') throw new Error(`the argument ${name} is a ${argument.kind}, not a number`);
    return argument.value;
  }

  argument(name: string): Argument {
    const argument = this.values.get(name);
    if (!argument) throw new Error(`the argument ${name} is not bound`);
    return argument;
  }
}

export interface Binding {
  readonly bound: Bound;
  readonly diagnostics: readonly Diagnostic[];
  /** Capabilities that the tags need, with their places. */
  readonly needs: readonly { readonly capability: string; readonly span: Span; readonly what: string }[];
}

/** Sorts the arguments of a node by its signature; every deviation is a diagnostic, and the rest is still bound. */
export function bind(
  signature: Signature,
  node: CommandNode | TestNode,
  { variables }: Setup = { variables: false },
): Binding {
  const { args } = node;
  const diagnostics: Diagnostic[] = [];
  const needs: { capability: string; span: Span; what: string }[] = [];
  const tags = new Map<string, { tag: TagDefinition; value: Argument | null; at: Argument }>();
  const values = new Map<string, Argument>();
  const { name, section } = signature;
  const parameters = chosenParameters(signature.positional, args, needs, signature.tagGroups);
  let positional = 0;

  for (let at = 0; at < args.length; at++) {
    const argument = elementAt(args, at);
    if (argument.kind !== 'tag') {
      takePositional(argument);
      continue;
    }
    const found = findTag(signature.tagGroups, argument.name);
    if (!found) {
      const known = signature.tagGroups.flatMap((group) => group.tags.map((tag) => tag.tag));
      const details = { name, tag: argument.name, nearest: nearest(argument.name, known, ':'), section };
      diagnostics.push(diagnostic('unknown-tag', argument, details));
      continue;
    }
    if (positional > 0) diagnostics.push(diagnostic('tag-after-positional', argument, { tag: argument.name }));
    const before = tags.get(found.group.name);
    if (before) {
      diagnostics.push(diagnostic('tag-twice', argument, { tag: argument.name, before: before.tag.tag }));
    }
    if (found.tag.capability) {
      needs.push({ capability: found.tag.capability, span: argument, what: `:${found.tag.tag}` });
    }
    const parameter = found.tag.value;
    let value: Argument | null = null;
    if (parameter) {
      const next = args[at + 1];
      if (next && fits(parameter, next)) {
        value = next;
        values.set(parameter.name, next);
        at++;
      } else {
        const details = {
          name: `:${argument.name}`,
          argument: parameter.name,
          type: typeWords(parameter.type),
          section,
        };
        diagnostics.push(diagnostic('argument-missing', argument, details));
      }
    }
    tags.set(found.group.name, { tag: found.tag, value, at: argument });
  }

  for (const parameter of parameters.slice(positional)) {
    const details = { name, argument: parameter.name, type: typeWords(parameter.type), section };
    diagnostics.push(diagnostic('argument-missing', nameSpan(node), details));
  }
  for (const { tag, at } of tags.values()) {
    if (!tag.beside || tags.has(tag.beside)) continue;
    const needed = signature.tagGroups.find((group) => group.name === tag.beside)?.tags ?? [];
    const details = {
      name: `:${tag.tag}`,
      tags: needed.map((other) => `:${other.tag}`).join(' or '),
      section,
    };
    diagnostics.push(diagnostic('tag-beside', at, details));
  }
  for (const group of signature.tagGroups) {
    if (!group.required || tags.has(group.name)) continue;
    const words = group.tags.map((tag) => `:${tag.tag}`).join(', ');
    diagnostics.push(diagnostic('tag-missing', nameSpan(node), { name, tags: words, section }));
  }
  return { bound: new Bound(tags, values, variables), diagnostics, needs };

  function takePositional(argument: Argument): void {
    const parameter = parameters[positional];
    const found = kindWords(argument);
    if (!parameter) {
      diagnostics.push(diagnostic('argument-extra', argument, { name, found, section }));
      return;
    }
    positional++;
    if (fits(parameter, argument)) values.set(parameter.name, argument);
    else {
      const details = { name, argument: parameter.name, type: typeWords(parameter.type), found, section };
      diagnostics.push(diagnostic('argument-type', argument, details));
    }
  }
}

/** Omits the optional parameters for which there are too few arguments. */
function chosenParameters(
  all: readonly Parameter[],
  args: readonly Argument[],
  needs: { capability: string; span: Span; what: string }[],
  groups: readonly TagGroup[],
): readonly Parameter[] {
  const optional = all.filter((parameter) => parameter.optional);
  if (optional.length === 0) return all;
  let spare = countPositional(args, groups) - (all.length - optional.length);
  const chosen = all.filter((parameter) => !parameter.optional || spare-- > 0);
  for (const { optional: option, name } of chosen) {
    const first = args[0];
    if (option?.capability && first) needs.push({ capability: option.capability, span: first, what: `its ${name}` });
  }
  return chosen;
}

function countPositional(args: readonly Argument[], groups: readonly TagGroup[]): number {
  let count = 0;
  for (let at = 0; at < args.length; at++) {
    const argument = elementAt(args, at);
    if (argument.kind !== 'tag') count++;
    else if (findTag(groups, argument.name)?.tag.value) at++;
  }
  return count;
}

function findTag(groups: readonly TagGroup[], name: string): { group: TagGroup; tag: TagDefinition } | null {
  for (const group of groups) {
    const tag = group.tags.find((candidate) => candidate.tag === name);
    if (tag) return { group, tag };
  }
  return null;
}

function fits(parameter: Parameter, argument: Argument): argument is StringArgument | StringListArgument {
  if (parameter.type === 'string-list') return argument.kind === 'string' || argument.kind === 'string-list';
  return argument.kind === parameter.type;
}

function typeWords(type: Parameter['type']): string {
  return { string: 'a string', 'string-list': 'a string or list of strings', number: 'a number' }[type];
}

function kindWords(argument: Argument): string {
  return { string: 'a string', 'string-list': 'a list of strings', number: 'a number', tag: 'a tag' }[argument.kind];
}
