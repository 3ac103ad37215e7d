import { canonicalFolder } from '../../interpret/fate';
import { type Candidate, matchingOf } from '../matching';
import { COMPARATOR, examineMatching, MATCH_TYPE } from '../shared';
import { type Extension, test } from './extension';

const annotation = (folder: string, entry: string): string => `${folder}\0${entry.toLowerCase()}`;
const KEYS = { name: 'key-list', type: 'string-list' } as const;

/** RFC 5490; `:create` is defined with fileinto. */
export const mailbox: Extension = {
  capabilities: ['mailbox', 'mboxmetadata', 'servermetadata'],
  tests: [
    {
      ...test,
      name: 'mailboxexists',
      about: 'True when all of the folders exist.',
      capability: 'mailbox',
      section: 'RFC 5490 section 3.1',
      tagGroups: [],
      positional: [{ name: 'mailbox-names', type: 'string-list' }],
      compile: (bound) => {
        const names = bound.texts('mailbox-names');
        return (run) => {
          const { folders } = run.world;
          return folders === null || names(run).every((name) => folders.has(canonicalFolder(name)));
        };
      },
    },
    {
      ...test,
      name: 'metadata',
      about: 'Compares an annotation of a folder with keys.',
      capability: 'mboxmetadata',
      section: 'RFC 5490 section 3.3',
      tagGroups: [MATCH_TYPE, COMPARATOR],
      positional: [{ name: 'mailbox', type: 'string' }, { name: 'annotation-name', type: 'string' }, KEYS],
      examine: (bound, problem) => examineMatching(bound, problem, 'key-list'),
      compile: (bound) => {
        const [folder, entry] = [bound.text('mailbox'), bound.text('annotation-name')];
        const matching = matchingOf(bound, 'key-list');
        return (run, report) => {
          const value = run.world.metadata.get(annotation(canonicalFolder(folder(run)), entry(run)));
          return value !== undefined && matching(run, [candidate(value)], report);
        };
      },
    },
    {
      ...test,
      name: 'metadataexists',
      about: 'True when a folder has all of the annotations.',
      capability: 'mboxmetadata',
      section: 'RFC 5490 section 3.4',
      tagGroups: [],
      positional: [
        { name: 'mailbox', type: 'string' },
        { name: 'annotation-names', type: 'string-list' },
      ],
      compile: (bound) => {
        const [folder, entries] = [bound.text('mailbox'), bound.texts('annotation-names')];
        return (run) =>
          entries(run).every((entry) => run.world.metadata.has(annotation(canonicalFolder(folder(run)), entry)));
      },
    },
    {
      ...test,
      name: 'servermetadata',
      about: 'Compares an annotation of the server with keys.',
      capability: 'servermetadata',
      section: 'RFC 5490 section 4.2',
      tagGroups: [MATCH_TYPE, COMPARATOR],
      positional: [{ name: 'annotation-name', type: 'string' }, KEYS],
      examine: (bound, problem) => examineMatching(bound, problem, 'key-list'),
      compile: (bound) => {
        const entry = bound.text('annotation-name');
        const matching = matchingOf(bound, 'key-list');
        return (run, report) => {
          const value = run.world.metadata.get(annotation('', entry(run)));
          return value !== undefined && matching(run, [candidate(value)], report);
        };
      },
    },
    {
      ...test,
      name: 'servermetadataexists',
      about: 'True when the server has all of the annotations.',
      capability: 'servermetadata',
      section: 'RFC 5490 section 4.3',
      tagGroups: [],
      positional: [{ name: 'annotation-names', type: 'string-list' }],
      compile: (bound) => {
        const entries = bound.texts('annotation-names');
        return (run) => entries(run).every((entry) => run.world.metadata.has(annotation('', entry)));
      },
    },
  ],
};

const candidate = (value: string): Candidate => ({ value, where: { kind: 'other', what: 'annotation' } });
