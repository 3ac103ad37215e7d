import { type Run, ScriptError } from '../../interpret/run';
import type { ActionProgram } from '../definition';
import { action, type Extension } from './extension';

/** A script may include others this deep (RFC 6609 section 3.1 leaves the limit to the server). */
const DEPTH_LIMIT = 10;

/** RFC 6609. */
export const include: Extension = {
  capabilities: ['include'],
  commands: [
    {
      ...action,
      role: 'control',
      name: 'include',
      about: 'Runs another script at this point.',
      capability: 'include',
      section: 'RFC 6609 section 3.1',
      // The other script may do anything.
      touches: () => ['edits message', 'sets flags', 'reads flags'],
      tagGroups: [
        { name: 'location', tags: [{ tag: 'personal' }, { tag: 'global' }] },
        { name: 'once', tags: [{ tag: 'once' }] },
        { name: 'optional', tags: [{ tag: 'optional' }] },
      ],
      positional: [{ name: 'script', type: 'string' }],
      examine: (bound, problem) => {
        const found = bound.string('script');
        if (found === '' || found.includes('${')) {
          problem('bad-value', bound.argument('script'), {
            found,
            expected: 'the plain name of a script (RFC 6609 section 3.1)',
          });
        }
      },
      compile: (bound) => {
        const name = bound.string('script');
        const location = bound.tagAmong('location', ['personal', 'global']) ?? 'personal';
        const [once, optional] = [bound.tag('once') !== null, bound.tag('optional') !== null];
        return (run) => {
          const id = `${location} ${name}`;
          if (once && run.included.has(id)) return;
          const script = run.world.script(name, location);
          if (!script) {
            if (optional) return;
            throw new ScriptError(`there is no ${location} script "${name}" to include`);
          }
          if (run.including.includes(id)) throw new ScriptError(`the script "${name}" includes itself`);
          if (run.including.length >= DEPTH_LIMIT) throw new ScriptError('scripts are included too deep');
          runIncluded(run, id, run.language.compile(script));
        };
      },
    },
    {
      ...action,
      role: 'control',
      name: 'return',
      about: 'Ends the included script; the including script continues.',
      capability: 'include',
      section: 'RFC 6609 section 3.3',
      positional: [],
      compile: () => (run) => {
        run.signal = { kind: 'return' };
      },
    },
    {
      ...action,
      role: 'control',
      name: 'global',
      about: 'Shares variables with the scripts that include this one.',
      capability: 'include',
      section: 'RFC 6609 section 3.4.1',
      touches: () => ['sets variables'],
      positional: [{ name: 'names', type: 'string-list' }],
      compile: (bound) => {
        const names = bound.strings('names').map((name) => name.toLowerCase());
        return (run) => {
          for (const name of names) run.variables.declared.add(name);
        };
      },
    },
  ],
};

/** An included script has variables of its own; the global ones are shared (section 3.4). */
function runIncluded(run: Run, id: string, program: ActionProgram): void {
  const { values, declared } = run.variables;
  run.including.push(id);
  run.included.add(id);
  run.variables.values = new Map();
  run.variables.declared = new Set();
  program(run);
  run.variables.values = values;
  run.variables.declared = declared;
  run.including.pop();
  if (run.signal?.kind === 'return') run.signal = null;
}
