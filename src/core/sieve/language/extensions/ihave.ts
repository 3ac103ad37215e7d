import { ScriptError } from '../../interpret/run';
import { action, type Extension, test } from './extension';

/** RFC 5463. */
export const ihave: Extension = {
  capabilities: ['ihave'],
  commands: [
    {
      ...action,
      name: 'error',
      about: 'Ends the script with an error; the message is kept.',
      capability: 'ihave',
      section: 'RFC 5463 section 5',
      positional: [{ name: 'message', type: 'string' }],
      compile: (bound) => {
        const message = bound.text('message');
        return (run) => {
          throw new ScriptError(message(run));
        };
      },
    },
  ],
  tests: [
    {
      ...test,
      name: 'ihave',
      about: 'True when the server supports all of the capabilities, which may then be used.',
      capability: 'ihave',
      section: 'RFC 5463 section 4',
      tagGroups: [],
      positional: [{ name: 'capabilities', type: 'string-list' }],
      compile: (bound) => {
        const names = bound.strings('capabilities');
        return (run) => names.every(run.language.knows);
      },
    },
  ],
};
