import { type Extension, test } from './extension';

/** RFC 6134; the :list match type and redirect :list are defined with their commands. */
export const extlists: Extension = {
  capabilities: ['extlists'],
  tests: [
    {
      ...test,
      name: 'valid_ext_list',
      about: 'True when the server has all of the lists.',
      capability: 'extlists',
      section: 'RFC 6134 section 2.3',
      tagGroups: [],
      positional: [{ name: 'ext-list-names', type: 'string-list' }],
      compile: (bound) => {
        const names = bound.texts('ext-list-names');
        return (run) => names(run).every((name) => run.world.lists.has(name));
      },
    },
  ],
};
