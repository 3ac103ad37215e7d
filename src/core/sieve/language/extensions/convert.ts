import { action, type Extension, test } from './extension';

const PARAMETERS = [
  { name: 'quoted-from-media-type', type: 'string' },
  { name: 'quoted-to-media-type', type: 'string' },
  { name: 'transcoding-params', type: 'string-list' },
] as const;

/** RFC 6558: read, checked and printed. A simulation converts nothing, so the test is false (section 2). */
export const convert: Extension = {
  capabilities: ['convert'],
  commands: [
    {
      ...action,
      name: 'convert',
      about: 'Converts parts from one media type to another.',
      capability: 'convert',
      section: 'RFC 6558 section 2',
      positional: PARAMETERS,
      compile: () => () => {},
    },
  ],
  tests: [
    {
      ...test,
      name: 'convert',
      about: 'Converts parts from one media type to another.',
      capability: 'convert',
      section: 'RFC 6558 section 2',
      tagGroups: [],
      positional: PARAMETERS,
      compile: () => () => false,
    },
  ],
};
