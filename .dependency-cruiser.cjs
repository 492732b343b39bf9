/** Each folder may know only those that architecture names below it; see README, "The house". */
const up = (from, forbidden) => ({
  name: `${from}-knows-only-below`,
  severity: 'error',
  from: { path: `^${from}/` },
  to: { path: `^(${forbidden.join('|')})/` },
})

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
    {
      name: 'public-face-only',
      comment: "a folder's index.ts is its public face",
      severity: 'error',
      from: { path: '^(formats|server|web|worker|bench|e2e)/' },
      to: { path: '^core/[^/]+/.+', pathNot: '^core/[^/]+/(index|testDocuments)\\.ts$' },
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
