import { comparatorNames, maybeComparator } from '../match/comparators';
import type { CommandDefinition, Parameter, Signature, TagDefinition, TestDefinition } from './definition';
import { capabilities, capabilitiesOf, commands, tests } from './table';

/** The syntax of a command or test in the notation of the standards; optional parts are in brackets. */
export function usageOf(definition: CommandDefinition | TestDefinition): string {
  const subtests = { none: [], one: ['<test>'], many: ['(<test>, <test>, ...)'] }[definition.subtests];
  const block = definition.kind === 'command' && definition.block ? ['{ ... }'] : [];
  const words = [definition.name, ...tagWords(definition), ...definition.positional.map(parameterWords), ...subtests];
  return [...words, ...block].join(' ') + (definition.kind === 'command' && !definition.block ? ';' : '');
}

function tagWords({ tagGroups }: Signature): string[] {
  return tagGroups.map(({ tags, required }) => {
    const words = tags.map(tagUsage).join(' / ');
    return required ? words : `[${words}]`;
  });
}

export const tagUsage = ({ tag, value }: TagDefinition): string =>
  value ? `:${tag} <${value.name}: ${value.type}>` : `:${tag}`;

function parameterWords({ name, type, optional }: Parameter): string {
  const words = `<${name}: ${type}>`;
  return optional ? `[${words}]` : words;
}

/** The parts of a capability: commands, tests, tags of others, and comparators, from the table. */
export interface CapabilityParts {
  readonly name: string;
  readonly commands: readonly string[];
  readonly tests: readonly string[];
  /** "tag of command", for tags that it adds to other definitions. */
  readonly tags: readonly string[];
  readonly comparators: readonly string[];
}

/** All capabilities by name. */
export function capabilityParts(): CapabilityParts[] {
  return [...capabilities].sort().map((name) => ({
    name,
    commands: [...commands.values()].filter((row) => capabilitiesOf(row).includes(name)).map((row) => row.name),
    tests: [...tests.values()].filter((row) => capabilitiesOf(row).includes(name)).map((row) => row.name),
    tags: [...commands.values(), ...tests.values()].flatMap((row) =>
      row.tagGroups
        .flatMap((group) => group.tags)
        .filter((tag) => tag.capability === name)
        .map(({ tag }) => `:${tag} of ${row.name}`),
    ),
    comparators: comparatorNames().filter((comparator) => maybeComparator(comparator)?.capability === name),
  }));
}
