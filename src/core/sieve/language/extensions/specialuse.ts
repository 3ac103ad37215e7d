import { type Extension, test } from './extension';

/** RFC 8579; :specialuse is defined with fileinto. */
export const specialUse: Extension = {
  capabilities: ['special-use'],
  tests: [
    {
      ...test,
      name: 'specialuse_exists',
      about: 'True when there are folders for all of the special uses.',
      capability: 'special-use',
      section: 'RFC 8579 section 3',
      tagGroups: [],
      positional: [
        { name: 'mailbox', type: 'string', optional: {} },
        { name: 'special-use-flags', type: 'string-list' },
      ],
      compile: (bound) => {
        const folder = bound.has('mailbox') ? bound.text('mailbox') : null;
        const flags = bound.texts('special-use-flags');
        return (run) =>
          flags(run).every((flag) => {
            const place = run.world.specialUse.get(flag.toLowerCase());
            return place !== undefined && (folder === null || place === folder(run));
          });
      },
    },
  ],
};
