/** The doors between the rooms (see CONTRIBUTING.md). */
const core = '^src/core/';
const numeric = '^node_modules/(@stdlib|(@types/)?d3-array)/';

module.exports = {
  forbidden: [
    {
      name: 'core-reaches-out',
      comment: 'core imports nothing but core and small numeric libraries',
      severity: 'error',
      from: { path: core, pathNot: '\\.test\\.ts$' },
      to: { pathNot: [core, numeric] },
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
      name: 'market-is-outside',
      comment: 'market imports neither core nor server',
      severity: 'error',
      from: { path: '^market/' },
      to: { path: ['^src/', '^demo/', '^scripts/'] },
    },
    {
      name: 'nothing-imports-market',
      comment: 'the two agree on HTTP and file formats only',
      severity: 'error',
      from: { pathNot: '^market/' },
      to: { path: '^market/' },
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
