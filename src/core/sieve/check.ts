import { elementAt } from '../text/lookup';
import type { Span } from '../text/span';
import { type Diagnostic, diagnostic } from './diagnostics';
import { REFERENCE } from './interpret/run';
import { type Bound, bind } from './language/bind';
import type { Problem, Signature } from './language/definition';
import { nearest } from './language/nearest';
import { capabilities, capabilitiesOf, commands, tests } from './language/table';
import { maybeComparator } from './match/comparators';
import { encodedFaults, requires, stringsIn } from './strings';
import { type CommandNode, nameSpan, type Script, type Statement, type TestNode } from './tree';

/** All faults that a server would reject in a parsed script, in text order. */
export function check(script: Script): readonly Diagnostic[] {
  return new Checker().run(script);
}

class Checker {
  readonly #nearestTo = new Map<string, string>();
  readonly #diagnostics: Diagnostic[] = [];
  readonly #required = new Set<string>();
  #variables = false;
  /** The commands whose blocks contain the current statement, outermost first. */
  readonly #around: string[] = [];

  run(script: Script): readonly Diagnostic[] {
    let requiresOver = false;
    for (const statement of script.commands) {
      if (statement.kind === 'command' && statement.name === 'require') this.#require(statement, requiresOver);
      else requiresOver = true;
    }
    this.#assume(script.commands);
    this.#variables = requires(script, 'variables');
    for (const fault of encodedFaults(script)) this.#diagnostics.push(fault);
    this.#conflicts(script.commands);
    this.#statements(script.commands, true);
    return this.#diagnostics.sort((a, b) => a.span.start - b.span.start);
  }

  #require(node: CommandNode, tooLate: boolean): void {
    if (tooLate) this.#report('require-too-late', nameSpan(node));
    for (const item of stringsIn(node.args)) {
      this.#required.add(item.value);
      if (!capabilities.has(item.value)) {
        const details = { name: item.value, nearest: nearest(item.value, capabilities) };
        this.#report('unknown-capability', item, details);
      }
    }
  }

  #statements(statements: readonly Statement[], top: boolean): void {
    let before: Statement | null = null;
    for (const statement of statements) {
      if (statement.kind === 'command') {
        this.#command(statement, before);
        if (statement.name === 'require' && !top) this.#report('require-too-late', nameSpan(statement));
      }
      before = statement;
    }
  }

  #nearest(name: string): string {
    const known = this.#nearestTo.get(name) ?? nearest(name, commands.keys());
    this.#nearestTo.set(name, known);
    return known;
  }

  #command(node: CommandNode, before: Statement | null): void {
    const definition = commands.get(node.name);
    if (!definition) {
      if (tests.has(node.name)) this.#report('test-as-command', nameSpan(node), { name: node.name });
      else {
        this.#report('unknown-command', nameSpan(node), { name: node.name, nearest: this.#nearest(node.name) });
      }
      if (node.block) this.#statements(node.block.commands, false);
      return;
    }
    this.#shape(definition, node);
    if (definition.block && !node.block) this.#report('block-missing', nameSpan(node), { name: node.name });
    if (!definition.block && node.block) this.#report('block-extra', node.block, { name: node.name });
    if (node.name === 'elsif' || node.name === 'else') {
      const follows = before?.kind === 'unreadable' || (before?.kind === 'command' && /^(els)?if$/.test(before.name));
      if (!follows) this.#report('branch-without-if', nameSpan(node), { name: node.name });
    }
    const { within } = definition;
    if (within && !this.#around.includes(within)) {
      this.#report('outside', nameSpan(node), { name: node.name, within, section: definition.section });
    }
    if (!node.block) return;
    this.#around.push(node.name);
    this.#conflicts(node.block.commands);
    this.#statements(node.block.commands, false);
    this.#around.pop();
  }

  /** Conflicting actions that certainly both run, since they are in one block. */
  #conflicts(statements: readonly Statement[]): void {
    const seen = new Set<string>();
    for (const node of statements) {
      if (node.kind !== 'command') continue;
      const { excludes, once } = commands.get(node.name) ?? {};
      if (once && seen.has(node.name)) {
        this.#report('twice-in-script', nameSpan(node), { name: node.name, section: once });
      }
      const other = [...seen].find((name) => excludes?.names.includes(name) || excludedBy(name, node.name));
      const section = excludes?.section ?? (other && commands.get(other)?.excludes?.section);
      if (other && section) {
        this.#report('conflicting-actions', nameSpan(node), { name: node.name, other, section });
      }
      // A file that is not a script may contain a million unknown commands.
      if (commands.has(node.name)) seen.add(node.name);
      if (node.name === 'stop') break;
    }
  }

  /** Whatever `ihave` asks for may be used where it is true (RFC 5463 section 4), so it counts as required there. */
  #assume(statements: readonly Statement[]): void {
    const inTest = (test: TestNode) => {
      if (test.name === 'ihave') {
        for (const { value } of stringsIn(test.args)) this.#required.add(value);
      }
      test.tests.forEach(inTest);
    };
    for (const statement of statements) {
      if (statement.kind !== 'command') continue;
      statement.tests.forEach(inTest);
      this.#assume(statement.block?.commands ?? []);
    }
  }

  #test(node: TestNode): void {
    const definition = tests.get(node.name);
    if (definition) {
      this.#shape(definition, node);
      return;
    }
    if (commands.has(node.name)) this.#report('command-as-test', nameSpan(node), { name: node.name });
    else {
      const details = { name: node.name, nearest: nearest(node.name, tests.keys()) };
      this.#report('unknown-test', nameSpan(node), details);
    }
    for (const child of node.tests) this.#test(child);
  }

  #shape(signature: Signature, node: CommandNode | TestNode): void {
    const anyOf = capabilitiesOf(signature);
    if (anyOf.length > 0 && !anyOf.some((name) => this.#required.has(name))) {
      this.#need(elementAt(anyOf, 0), nameSpan(node), node.name);
    }
    const setup = { variables: this.#variables };
    const { bound, diagnostics, needs } = bind(signature, node, setup);
    for (const fault of diagnostics) this.#diagnostics.push(fault);
    for (const need of needs) this.#need(need.capability, need.span, need.what);
    this.#comparator(bound);
    const problem: Problem = (code, at, details) => {
      if (code === 'missing-require') this.#need(details.capability ?? '', at, details.what ?? '');
      else this.#report(code, at, details);
    };
    if (diagnostics.length === 0) signature.examine?.(bound, problem);
    if (this.#variables) this.#namespaces(node);
    this.#subtests(signature, node);
    for (const child of node.tests) this.#test(child);
  }

  /**
   * Variable names with a dot belong to an extension that must be required (RFC 5229 section 3, RFC 6609 section
   * 3.4.2).
   */
  #namespaces(node: CommandNode | TestNode): void {
    for (const item of stringsIn(node.args)) {
      const written = [...item.value.matchAll(REFERENCE)].map(([, name = '']) => name);
      const set = node.kind === 'command' && /^(set|extracttext)$/.test(node.name) && item === stringsIn(node.args)[0];
      for (const name of set ? [...written, item.value] : written) {
        const namespace = /^([a-z_]\w*)\.[\w.]+$/i.exec(name)?.[1];
        if (namespace === undefined) continue;
        if (namespace.toLowerCase() === 'global') this.#need('include', item, `the variable "${name}"`);
        else this.#report('unknown-namespace', item, { name, namespace });
      }
    }
  }

  /** RFC 5228 section 2.7.3: all comparators but the two basic ones must be required. */
  #comparator(bound: Bound): void {
    if (!bound.has('comparator')) return;
    const { capability, name } = maybeComparator(bound.string('comparator')) ?? { capability: null, name: '' };
    if (capability) this.#need(capability, bound.argument('comparator'), `the comparator "${name}"`);
  }

  #subtests(signature: Signature, node: CommandNode | TestNode): void {
    const { name, section } = signature;
    const count = node.tests.length;
    const first = node.tests[0];
    switch (signature.subtests) {
      case 'none':
        if (first) this.#report('test-count', first, { name, expected: 'no test', section });
        return;
      case 'one':
        if (count === 0) this.#report('test-missing', nameSpan(node), { name, section });
        else if (count > 1 || node.listed) {
          this.#report('test-count', first ?? node, { name, expected: 'one test without parentheses', section });
        }
        return;
      case 'many':
        if (count === 0) this.#report('test-missing', nameSpan(node), { name, section });
        else if (!node.listed) this.#report('test-list-form', first ?? node, { name, section });
        return;
      default:
        signature.subtests satisfies never;
    }
  }

  #need(capability: string, span: Span, what: string): void {
    if (!this.#required.has(capability)) this.#report('missing-require', span, { what, capability });
  }

  #report(code: Diagnostic['code'], span: Span, details: Record<string, string> = {}): void {
    this.#diagnostics.push(diagnostic(code, span, details));
  }
}

function excludedBy(name: string, other: string): boolean {
  return commands.get(name)?.excludes?.names.includes(other) ?? false;
}
