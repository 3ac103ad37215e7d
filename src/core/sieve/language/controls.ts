import type { CommandDefinition } from './definition';

const control = { kind: 'command', role: 'control', capability: null, tagGroups: [], compile: null } as const;

/** RFC 5228 section 3.2. */
export const require: CommandDefinition = {
  ...control,
  name: 'require',
  about: 'Names the extensions that the script uses.',
  section: 'RFC 5228 section 3.2',
  positional: [{ name: 'capabilities', type: 'string-list' }],
  subtests: 'none',
  block: false,
};

const branch = { ...control, section: 'RFC 5228 section 3.1', positional: [], block: true } as const;

export const ifCommand: CommandDefinition = {
  ...branch,
  name: 'if',
  about: 'Runs its block when its test is true.',
  subtests: 'one',
};
export const elsifCommand: CommandDefinition = {
  ...branch,
  name: 'elsif',
  about: 'Runs its block when no earlier branch ran and its test is true.',
  subtests: 'one',
};
export const elseCommand: CommandDefinition = {
  ...branch,
  name: 'else',
  about: 'Runs its block when no earlier branch ran.',
  subtests: 'none',
};

/** RFC 5228 section 3.3: ends the script; the implicit keep stands unless it was cancelled before. */
export const stop: CommandDefinition = {
  ...control,
  name: 'stop',
  about: 'Stops the script; the implicit keep applies unless an action cancelled it.',
  section: 'RFC 5228 section 3.3',
  positional: [],
  subtests: 'none',
  block: false,
  compile: () => (run) => {
    run.signal = { kind: 'stop' };
  },
};
