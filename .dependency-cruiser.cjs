/** The doors between the rooms (see CONTRIBUTING.md). */
const core = '^src/core/';
const small = '^node_modules/(@stdlib|(@types/)?(chevrotain|@chevrotain|d3-array|pluralize|re2js))/';

module.exports = {
  forbidden: [
    {
      name: 'core-reaches-out',
      comment:
        'core imports nothing but core, small numeric libraries, and those of plurals, of regular expressions and of grammars',
      severity: 'error',
      from: { path: core, pathNot: '\\.test\\.ts$' },
      to: { pathNot: [core, small] },
    },
    {
      name: 'server-room',
      comment: 'server imports core, never views, ui, pages, market or demo',
      severity: 'error',
      from: { path: '^src/server/', pathNot: '\\.test\\.ts$' },
      to: { path: ['^src/(views|ui|pages)/', '^market/', '^demo/', '^scripts/', '^tests/'] },
    },
    {
      name: 'views-room',
      comment: 'views import ui and core',
      severity: 'error',
      from: { path: '^src/views/' },
      to: { path: ['^src/(server|pages)/', '^market/', '^demo/'] },
    },
    {
      name: 'ui-room',
      comment: 'ui knows nothing of any one view',
      severity: 'error',
      from: { path: '^src/ui/' },
      to: { path: ['^src/(server|pages|views)/', '^market/', '^demo/'] },
    },
    {
      name: 'answers-are-types',
      comment: 'what endpoints answer, said once for server, views and tests',
      severity: 'error',
      from: { path: '^src/answers/' },
      to: { pathNot: ['^src/(answers|core)/'] },
    },
    {
      name: 'market-is-outside',
      comment: 'market imports neither core nor server',
      severity: 'error',
      from: { path: '^market/' },
      to: { path: ['^src/', '^demo/', '^scripts/'] },
    },
    {
      name: 'lab-judges-from-outside',
      comment:
        'the laboratory imports core; its crowds import nothing of Mowing, and share nothing with market',
      severity: 'error',
      from: { path: '^lab/crowd/', pathNot: '^lab/crowd/(server|view)\\.ts$' },
      to: { path: ['^src/', '^market/', '^demo/'] },
    },
    {
      name: 'nothing-imports-lab',
      comment: 'only its script plays it',
      severity: 'error',
      from: { pathNot: '^(lab/|scripts/lab\\.ts)' },
      to: { path: '^lab/' },
    },
    {
      name: 'nothing-imports-market',
      comment:
        'the two agree on HTTP and file formats only; what the laboratory calls true, the market itself lives',
      severity: 'error',
      from: { pathNot: '^(market/|lab/truth\\.ts$)' },
      to: { path: '^market/' },
    },
    {
      name: 'subjects-by-their-index',
      comment: 'pages know a subject of the server by its table of contents only',
      severity: 'error',
      from: { path: '^src/pages/' },
      to: {
        path: '^src/server/[a-z]+/',
        pathNot: '^src/server/([a-z]+/index\\.ts|(http|db|start)/)',
      },
    },
    {
      name: 'no-cycles',
      severity: 'error',
      from: {},
      to: { circular: true, viaOnly: { dependencyTypesNot: ['type-only'] } },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsConfig: { fileName: 'tsconfig.json' },
    tsPreCompilationDeps: true,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'node', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
    },
  },
};
