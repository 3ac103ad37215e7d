import type { CommandDefinition, TestDefinition } from '../definition';

/** The parts of one extension; tags that it adds to other commands are in `shared.ts`. */
export interface Extension {
  /** Names for `require`. */
  readonly capabilities: readonly string[];
  readonly commands?: readonly CommandDefinition[];
  readonly tests?: readonly TestDefinition[];
}

export const action = { kind: 'command', role: 'action', block: false, subtests: 'none', tagGroups: [] } as const;
export const test = { kind: 'test', subtests: 'none' } as const;
