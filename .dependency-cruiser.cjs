/** The directions of imports, from docs and the layout of src: see README, "How the code is laid out". */
const folder = (name) => `^src/core/${name}/`;
// Each folder of the core, and those it may import beside itself.
const MAY = {
  text: [],
  mail: ['text'],
  sieve: ['text', 'mail'],
  rules: ['text', 'mail', 'sieve'],
  fates: ['text', 'mail', 'sieve', 'rules'],
  flow: ['text', 'mail', 'sieve', 'rules', 'fates'],
  reason: ['text', 'mail', 'sieve', 'rules', 'fates'],
  audit: ['text', 'mail', 'sieve', 'rules', 'fates', 'flow', 'reason'],
  repair: ['text', 'mail', 'sieve', 'rules', 'fates', 'flow', 'reason', 'audit'],
  plan: ['text', 'mail', 'sieve', 'rules', 'fates', 'flow', 'reason', 'audit', 'repair'],
  handover: ['text', 'mail', 'sieve', 'rules', 'fates', 'flow', 'reason', 'audit', 'repair'],
};

module.exports = {
  forbidden: [
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
    {
      name: 'core-stands-alone',
      comment: 'The core runs in Node, in a worker and in a browser: no server, no interface, no Node modules.',
      severity: 'error',
      from: { path: '^src/core/', pathNot: ['\\.test\\.ts$', '^src/core/agreement/'] },
      to: {
        pathNot: [
          '^src/core/',
          'node_modules/(htmlparser2|iconv-lite|safer-buffer|fast-xml-parser|entities|fast-deep-equal|fastest-levenshtein|tldts|tldts-core)',
        ],
      },
    },
    ...Object.entries(MAY).map(([name, others]) => ({
      name: `core-${name}`,
      severity: 'error',
      from: { path: folder(name), pathNot: '\\.test\\.ts$' },
      to: { path: '^src/core/', pathNot: [name, ...others].map(folder) },
    })),
    {
      name: 'automata-are-mathematics',
      severity: 'error',
      from: { path: '^src/core/reason/automata/' },
      to: { path: '^src/', pathNot: '^src/core/(reason/automata/|text/(lookup|relation)|mail/date)' },
    },
    {
      name: 'solving-knows-no-sieve',
      severity: 'error',
      from: { path: '^src/core/reason/solve/' },
      to: { path: '^src/', pathNot: '^src/core/(reason/(automata|solve)/|text/lookup)' },
    },
    {
      name: 'server-below-interface',
      severity: 'error',
      from: { path: '^src/server/' },
      to: { path: '^src/(app|ui|cli)/' },
    },
    {
      name: 'database-and-cache-below-all',
      comment: 'They know tables and keys, and no use case; types aside.',
      severity: 'error',
      from: { path: '^src/server/(database|cache)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^src/server/', pathNot: '^src/server/(database|cache)/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'jobs-above-use-cases',
      comment: 'A use case asks for a job through the runner that it is given.',
      severity: 'error',
      from: { path: '^src/server/', pathNot: '^src/server/(jobs|lifecycle)/|\\.test\\.ts$' },
      to: { path: '^src/server/jobs/', dependencyTypesNot: ['type-only'] },
    },
    {
      name: 'files-over-core',
      comment: 'Reading of files with Node, shared by the server and the command line.',
      severity: 'error',
      from: { path: '^src/files/' },
      to: { path: '^src/', pathNot: '^src/(core|files)/' },
    },
    {
      name: 'interface-takes-only-shapes-of-the-server',
      comment: 'What runs in the browser may use types, wire shapes and words of the server, never its database.',
      severity: 'error',
      from: { path: '^src/ui/' },
      to: {
        path: '^src/server/',
        pathNot: '^src/server/(http/(shapes|answers)|gather/oddities)\\.ts$',
        dependencyTypesNot: ['type-only'],
      },
    },
    { name: 'cli-over-core', severity: 'error', from: { path: '^src/cli/' }, to: { path: '^src/(app|ui|server)/' } },
    {
      name: 'no-tests-in-code',
      severity: 'error',
      from: { path: '^src/', pathNot: '\\.test\\.ts$' },
      to: { path: '\\.test\\.ts$|^test/' },
    },
    { name: 'no-orphan-imports', severity: 'error', from: {}, to: { couldNotResolve: true } },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '\\.css$' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
      conditionNames: ['import', 'types', 'default'],
    },
  },
};
