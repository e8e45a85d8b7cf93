/** The pages of the manual that people who use the application read, in the order of the work. */
export const MANUAL: readonly { name: string; title: string; about: string }[] = [
  { name: 'formats', title: 'Files', about: 'What can be read, and what is written.' },
  { name: 'findings', title: 'Findings', about: 'What the survey notices, and what each finding means.' },
  { name: 'plan', title: 'Plan', about: 'Sheets, routes, rules, budgets and alternatives.' },
  { name: 'layout', title: 'UV layout', about: 'Packing, margins, and bays placed by hand.' },
  { name: 'faces', title: 'Faces', about: 'Choosing faces, groups, new slots and colours.' },
  { name: 'tiles', title: 'Tile sheets', about: 'Grids of cells, variants, and the tile table.' },
  { name: 'bake', title: 'High to low', about: 'Pairings, reaches, maps and faults.' },
  { name: 'recipes', title: 'Recipes', about: 'Looks written as sentences: conditions, looks, and how they lie.' },
  { name: 'stand-ins', title: 'Stand-ins', about: 'One light model for a heavy one: shapes, hulls, levels of detail.' },
  { name: 'handover', title: 'Hand over', about: 'Trial load, SHA-256, collision shapes.' },
  { name: 'profiles', title: 'Profiles', about: 'Conventions of handing over.' },
  { name: 'cli', title: 'Command line', about: 'All verbs, options and outputs.' },
];
