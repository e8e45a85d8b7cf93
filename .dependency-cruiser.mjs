// Which folders may know which: docs/architecture.md, "Layers". Run by `./wembrel test` (suite `structure`).

/** Folders of packages/core/src by level; a folder may know those of lower levels. */
const CORE_LEVELS = [
  ['math', 'image'],
  ['scene', 'pack', 'decisions'],
  ['mesh', 'palette'],
  ['formats', 'unwrap', 'cut', 'repair', 'compare', 'select'],
  ['plan', 'tiles'],
  ['layout', 'faces'],
  ['bake'],
  ['rays', 'handover'],
  ['survey', 'stand-in', 'recipes'],
  ['predict', 'findings'],
];

/** The same for folders of rays, of the runner and of the web application. */
const RAYS_LEVELS = [['target'], ['pairing'], ['maps'], ['faults'], ['cast']];
const RUNNER_LEVELS = [
  ['pool', 'reduce'],
  ['pictures'],
  ['read'],
  ['write'],
  ['stages'],
  ['plans'],
  ['models', 'rays', 'survey'],
  ['stand-in', 'recipes'],
  ['merge'],
  ['worker'],
];
const WEB_LEVELS = [['contract', 'ui'], ['workers'], ['stage'], ['project'], ['views']];
const SERVER_LEVELS = [['store'], ['jobs'], ['http', 'demo']];

/** One rule a level: nothing in it knows a folder of its own level other than itself, or of a higher one. */
function upwards(base, levels) {
  return levels.flatMap((folders, level) =>
    folders.map((folder) => {
      const beyond = levels
        .slice(level)
        .flat()
        .filter((f) => f !== folder);
      return {
        name: `${base}/${folder} knows no folder of its level or above`,
        severity: 'error',
        from: { path: `^${base}/${folder}/` },
        to: { path: beyond.length > 0 ? `^${base}/(${beyond.join('|')})/` : '^$' },
      };
    }),
  );
}

/** A rule that no file under `from` imports one under `to`. */
const never = (name, from, to) => ({ name, severity: 'error', from: { path: from }, to: { path: to } });

export default {
  forbidden: [
    { name: 'no circles', severity: 'error', from: {}, to: { circular: true } },
    ...upwards('packages/core/src', CORE_LEVELS),
    ...upwards('packages/core/src/rays', RAYS_LEVELS),
    ...upwards('packages/runner/src', RUNNER_LEVELS),
    ...upwards('apps/web/src', WEB_LEVELS),
    ...upwards('apps/web/src/server', SERVER_LEVELS),
    {
      name: 'no view knows another',
      comment: 'What several views need stands in src/project or src/ui; only the workbench knows them all.',
      severity: 'error',
      from: { path: '^apps/web/src/views/([^/]+)/', pathNot: '^apps/web/src/views/workbench/' },
      to: { path: '^apps/web/src/views/', pathNot: '^apps/web/src/views/$1/' },
    },
    never(
      'pages of the browser know nothing of the server',
      '^apps/web/src/(views|project|stage|ui|workers|contract)/',
      '^apps/web/src/server/',
    ),
    never('the core knows no package above it', '^packages/core/src/', '^(packages/(runner|demo)|apps)/'),
    never('kernels know nothing', '^packages/kernels/src/', '^(packages/(core|runner|demo)|apps)/'),
    never('the runner knows no application', '^packages/runner/src/', '^(packages/demo|apps)/'),
    {
      name: 'dependencies are declared where they are used',
      severity: 'error',
      from: { path: '^(packages|apps)/[^/]+/src/' },
      to: { dependencyTypes: ['npm-no-pkg', 'npm-unknown'] },
    },
    {
      name: 'everything is found',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: '\\.css$|^astro:|^virtual:|\\?' },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    exclude: { path: '(^|/)(node_modules|dist|generated)/' },
    tsPreCompilationDeps: true,
    combinedDependencies: false,
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'types', 'default'],
      extensions: ['.ts', '.tsx', '.mjs', '.js'],
    },
    tsConfig: { fileName: 'tsconfig.base.json' },
  },
};
