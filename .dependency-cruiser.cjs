/** Each folder may know only those that architecture names below it; see README, "The house". */
const up = (from, forbidden) => ({
  name: `${from}-knows-only-below`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: { path: `^(${forbidden.join('|')})/` },
})

/** The same between folders of one workspace, but for tests. */
const within = (from, forbidden) => ({ ...up(from, forbidden), from: { path: `^${from}/`, pathNot: '\\.test\\.ts$' } })

module.exports = {
  forbidden: [
    up('core', ['formats', 'server', 'web', 'worker', 'demo', 'e2e', 'bench', 'bin']),
    up('formats', ['server', 'web', 'worker', 'demo', 'e2e', 'bench', 'bin']),
    up('server', ['web', 'worker', 'demo', 'e2e', 'bench', 'bin']),
    up('web', ['worker', 'demo', 'e2e', 'bench', 'bin']),
    up('worker', ['web', 'demo', 'e2e', 'bench', 'bin']),
    up('demo', ['core', 'server', 'web', 'worker', 'e2e', 'bench', 'bin']),
    {
      name: 'core-is-pure',
      comment: 'core runs the same in browser, worker and Node',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-knows-no-interface',
      severity: 'error',
      from: { path: '^core/', pathNot: '\\.test\\.ts$' },
      to: { path: 'node_modules/(react|next|antd|pg|@mikro-orm|sharp)' },
    },
    {
      name: 'browser-knows-no-server',
      comment: 'only route handlers and server components may reach the database',
      severity: 'error',
      from: { path: '^web/', pathNot: '^web/(app/|api/|serve[.]ts)' },
      to: { path: '^server/' },
    },
    { name: 'no-circular', severity: 'error', from: {}, to: { circular: true } },
    // Inside core: what is stored knows nothing of what is made of it. Tests may.
    within('core/document', [
      'core/evaluation',
      'core/tracks',
      'core/edits',
      'core/tracking',
      'core/raster',
      'core/image',
    ]),
    within('core/evaluation', ['core/tracks', 'core/edits']),
    within('core/tracks', ['core/edits']),
    // Inside web: state knows nothing of who changes or shows it; what keys and buttons do knows nothing of the picture.
    within('web/media', ['web/store', 'web/session', 'web/selection', 'web/commands', 'web/viewer', 'web/features']),
    within('web/store', ['web/session', 'web/selection', 'web/commands', 'web/viewer', 'web/features']),
    within('web/selection', ['web/session', 'web/commands', 'web/viewer', 'web/features']),
    within('web/session', ['web/selection', 'web/commands', 'web/viewer', 'web/features']),
    within('web/commands', ['web/viewer', 'web/features']),
    within('web/viewer', ['web/features']),
    within('web/workers', ['web/store', 'web/session', 'web/selection', 'web/commands', 'web/viewer', 'web/features']),
    {
      name: 'public-face-only',
      comment: "a folder's index.ts is its public face",
      severity: 'error',
      from: { path: '^(formats|server|web|worker|bench|e2e)/' },
      to: { path: '^core/[^/]+/.+', pathNot: '^core/[^/]+/(index|testDocuments)\\.ts$' },
    },
    {
      name: 'public-face-inside-core',
      comment: "a folder's index.ts is its public face, for its neighbours in core as well",
      severity: 'error',
      from: { path: '^core/([^/]+)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^core/[^/]+/.+', pathNot: '^core/($1/|[^/]+/(index|testDocuments)\\.ts$)' },
    },
    {
      name: 'public-face-of-server',
      comment: "a folder's index.ts is its public face",
      severity: 'error',
      from: { path: '^(web|worker|bench|bin|e2e)/' },
      to: { path: '^server/[^/]+/.+', pathNot: '^server/[^/]+/index\\.ts$' },
    },
    {
      name: 'public-face-inside-server',
      comment: "a folder's index.ts is its public face, for its neighbours in server as well",
      severity: 'error',
      from: { path: '^server/([^/]+)/', pathNot: '\\.test\\.ts$' },
      to: { path: '^server/[^/]+/.+', pathNot: '^server/($1/|[^/]+/index\\.ts$)' },
    },
    {
      name: 'public-face-inside-web',
      comment: "a room's index.ts is its public face",
      severity: 'error',
      from: { path: '^web/([^/]+)/', pathNot: '\\.test\\.ts$' },
      to: {
        path: '^web/(store|media|session|selection|commands)/.+',
        pathNot: '^web/($1/|[^/]+/index\\.ts$)',
      },
    },
    {
      name: 'public-face-of-formats',
      comment: "a folder's index.ts is its public face",
      severity: 'error',
      from: { path: '^(server|web|worker|demo|bench|e2e)/' },
      to: { path: '^formats/[^/]+/.+', pathNot: '^formats/[^/]+/index\\.ts$' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(\\.next|node_modules/\\.)' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
}
