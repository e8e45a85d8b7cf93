/** Recipes of the demo, as the files hold them. */

const stock = (look: string) => ({ from: 'stock', look });

/** The ticket post in ten lines. */
const ticketPost = {
  recipe: 1,
  name: 'Ticket post',
  inputs: { curvature: 12, ao: 120, ids: 'material' },
  conditions: {
    'worn edges': {
      all: [
        { of: 'convex', from: 0.22, soft: 0.2 },
        { of: 'noise', size: 45, layers: 4, from: 0.42, soft: 0.22 },
      ],
    },
  },
  lines: [
    { name: 'enamel all over', what: { look: stock('enamel') } },
    { name: 'bottle green', what: { change: 'multiply', color: '#2c6a5c' } },
    {
      name: 'sun-bleached towards the top',
      what: { change: 'hue', chroma: 0.72, lightness: 0.05 },
      where: { of: 'position', axis: 'y', within: 'model', from: 1050, soft: 700 },
    },
    {
      name: 'chipped to rust at edges',
      what: { look: stock('rust') },
      where: { use: 'worn edges' },
      how: { relief: { depth: -0.35 } },
    },
    {
      name: 'bare zinc where hands go',
      what: { look: stock('zinc') },
      where: {
        all: [
          { of: 'convex', from: 0.5, soft: 0.25 },
          { of: 'position', axis: 'y', within: 'model', from: 950, soft: 200 },
          { of: 'noise', size: 30, layers: 3, seed: 8, from: 0.5, soft: 0.2 },
        ],
      },
    },
    {
      name: 'brass plate',
      what: { look: stock('brass') },
      where: { of: 'id', names: ['PostBrass'], soft: 1.5 },
    },
    {
      name: 'rust creeps up from the foot',
      what: { look: stock('rust') },
      where: {
        all: [
          { of: 'position', axis: 'y', within: 'model', to: 110, soft: 130, wander: { by: 70, size: 110 } },
          { of: 'noise', size: 30, layers: 4, seed: 5, from: 0.46, soft: 0.14 },
        ],
      },
      how: { relief: { depth: 0.3 } },
    },
    {
      name: 'dirt in crevices',
      what: { look: stock('grime') },
      where: { of: 'ao', to: 0.62, soft: 0.5 },
      how: { strength: 0.85 },
    },
    {
      name: 'runs below the head',
      what: { look: { ...stock('grime') }, lay: { by: 'box', metres: 0.5 } },
      where: {
        all: [
          { of: 'position', axis: 'y', within: 'model', from: 720, to: 1060, soft: 240 },
          { of: 'facing', direction: [0, 1, 0], from: 60, to: 120, soft: 10 },
        ],
      },
      how: { strength: 0.4 },
    },
    {
      name: 'moss on what looks up',
      what: { look: stock('moss'), lay: { by: 'box', metres: 0.22 } },
      where: {
        all: [
          { of: 'facing', to: 45, soft: 20 },
          { of: 'noise', size: 85, layers: 4, seed: 11, from: 0.58, soft: 0.12 },
        ],
      },
      how: {
        relief: { depth: 2.5, from: 'height' },
        shadow: { distance: 3, soft: 5, strength: 0.5, towards: [1, -1, 0.4] },
      },
    },
  ],
};

/** The parcel locker: its materials by a picture of IDs, then use and weather, then decals. */
const parcelLocker = {
  recipe: 1,
  name: 'Parcel locker',
  inputs: { curvature: 10, ao: 90 },
  conditions: {
    painted: { of: 'id', picture: 'locker-ids.png', colours: ['#be3c32', '#285abe'] },
  },
  lines: [
    { name: 'steel under everything', what: { look: stock('zinc') } },
    {
      name: 'body in dark paint',
      what: { look: stock('paint') },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#be3c32'] },
    },
    {
      name: 'doors in light paint',
      what: { look: stock('enamel') },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#285abe'] },
    },
    {
      name: 'body slate blue',
      what: { change: 'multiply', color: '#33434f' },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#be3c32'] },
    },
    {
      name: 'doors yellow',
      what: { change: 'multiply', color: '#d99a2b' },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#285abe'] },
    },
    {
      name: 'roof weathered',
      what: { look: stock('zinc'), lay: { by: 'box', metres: 0.9, breakUp: { turned: true } } },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#e6be28'] },
    },
    {
      name: 'foot of asphalt-coated iron',
      what: { look: stock('asphalt') },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#783c96'] },
    },
    {
      name: 'panel of dark glass',
      what: { look: { from: 'values', color: '#10181c', roughness: 0.12, metallic: 0, occlusion: 1 } },
      where: { of: 'id', picture: 'locker-ids.png', colours: ['#3caa50'] },
    },
    {
      name: 'every door a little different',
      what: { change: 'darken', by: 0.22 },
      where: {
        all: [
          { of: 'id', picture: 'locker-ids.png', colours: ['#285abe'] },
          { of: 'random', per: 'island', seed: 3, from: 0, to: 0.5, soft: 1 },
        ],
      },
    },
    {
      name: 'emblem on the panel',
      what: {
        look: { from: 'files', names: 'emblem_basecolor.png' },
        lay: { by: 'side', at: [0, 1.286, 0.262], direction: [0, 0, 1], width: 0.26, height: 0.26, depth: 0.01 },
      },
    },
    {
      name: 'name along the roof',
      what: {
        look: { from: 'files', names: 'stop-name_basecolor.png' },
        lay: { by: 'side', at: [0, 1.83, 0.35], direction: [0, 0, 1], width: 0.36, height: 0.06, depth: 0.02 },
      },
    },
    {
      name: 'large emblem on the flank',
      what: {
        look: { from: 'files', names: 'emblem_basecolor.png' },
        lay: { by: 'side', at: [0.75, 1.1, 0], direction: [1, 0, 0], width: 0.42, height: 0.42, depth: 0.02 },
      },
      where: { of: 'noise', size: 25, layers: 4, seed: 21, from: 0.3, soft: 0.15 },
    },
    {
      name: 'paint worn off at edges',
      what: { look: stock('zinc') },
      where: {
        all: [
          { use: 'painted' },
          { of: 'convex', from: 0.3, soft: 0.25 },
          { of: 'noise', size: 35, layers: 4, seed: 4, from: 0.5, soft: 0.2 },
        ],
      },
      how: { relief: { depth: -0.25 } },
    },
    {
      name: 'dirt around the doors',
      what: { look: stock('grime') },
      where: { of: 'ao', to: 0.68, soft: 0.4 },
      how: { strength: 0.9 },
    },
    {
      name: 'splashes at the foot',
      what: { look: stock('grime') },
      where: {
        all: [
          { of: 'position', axis: 'y', within: 'model', to: 260, soft: 320, wander: { by: 90, size: 160 } },
          { of: 'noise', size: 60, layers: 5, seed: 9, from: 0.42, soft: 0.3 },
        ],
      },
      how: { strength: 0.75 },
    },
  ],
};

/** One recipe for all lamp posts, however high. */
const lampPosts = {
  recipe: 1,
  name: 'Lamp posts',
  inputs: { curvature: 15, ao: 150 },
  lines: [
    { name: 'painted iron', what: { look: stock('paint') }, where: { of: 'slot', names: ['PostIron'] } },
    { name: 'dark green', what: { change: 'multiply', color: '#27493f' }, where: { of: 'slot', names: ['PostIron'] } },
    { name: 'lantern of glass', what: { look: stock('glass') }, where: { of: 'slot', names: ['LanternGlass'] } },
    {
      name: 'lit from within',
      what: { look: { from: 'values', emissive: '#ffce86' } },
      where: {
        all: [
          { of: 'slot', names: ['LanternGlass'] },
          { of: 'position', axis: 'y', within: 'part', unit: 'share', from: 0.2, to: 0.8, soft: 0.5 },
        ],
      },
    },
    {
      name: 'gilded collars, upper 10 cm of the iron',
      what: { look: stock('brass') },
      where: {
        all: [
          { of: 'slot', names: ['PostIron'] },
          { of: 'position', axis: 'y', within: 'model', end: 'high', to: 100, soft: 10 },
        ],
      },
    },
    {
      name: 'flaking at edges',
      what: { look: stock('rust') },
      where: {
        all: [
          { of: 'slot', names: ['PostIron'] },
          { of: 'convex', from: 0.3, soft: 0.3 },
          { of: 'noise', size: 40, layers: 4, from: 0.5, soft: 0.2 },
        ],
      },
      how: { relief: { depth: -0.4 } },
    },
    {
      name: 'rust at the foot',
      what: { look: stock('rust') },
      where: {
        all: [
          { of: 'position', axis: 'y', within: 'model', to: 120, soft: 160, wander: { by: 80, size: 120 } },
          { of: 'noise', size: 35, layers: 4, seed: 6, from: 0.44, soft: 0.16 },
        ],
      },
    },
    {
      name: 'dirt in the mouldings',
      what: { look: stock('grime') },
      where: { of: 'ao', to: 0.6, soft: 0.5 },
      how: { strength: 0.8 },
    },
  ],
};

/** Paving of the platform, 1 m by 1 m. */
const paving = {
  recipe: 1,
  name: 'paving',
  lines: [{ name: 'slabs', what: { look: { from: 'files', names: 'paving_*' }, lay: { by: 'box', metres: 1 } } }],
};

/** The same with moss scattered over it. */
const mossyPaving = {
  recipe: 1,
  name: 'paving-moss',
  lines: [
    ...paving.lines,
    {
      name: 'damp patches',
      what: { change: 'darken', by: 0.35 },
      where: { of: 'noise', size: 330, layers: 4, seed: 2, from: 0.5, soft: 0.35 },
    },
    {
      name: 'moss in cushions',
      what: {
        look: stock('moss'),
        lay: { by: 'box', metres: 0.25, breakUp: { turned: true } },
      },
      where: {
        all: [
          { of: 'noise', size: 330, layers: 5, seed: 2, from: 0.56, soft: 0.14 },
          { of: 'noise', size: 60, layers: 3, seed: 7, from: 0.36, soft: 0.2 },
        ],
      },
      how: {
        relief: { depth: 4, from: 'height' },
        shadow: { distance: 4, soft: 9, strength: 0.6, towards: [0.5, -1, 0] },
      },
    },
  ],
};

/** Paving that gives way to gravel upwards; it goes on to its left and right, mirrored or not. */
const pavingToGravel = {
  recipe: 1,
  name: 'paving-to-gravel',
  conditions: {
    upper: { of: 'position', axis: 'y', from: 500, soft: 6, wander: { by: 110, size: 250, seed: 3 } },
  },
  lines: [
    { name: 'gravel', what: { look: { from: 'files', names: 'gravel_*' }, lay: { by: 'box', metres: 0.5 } } },
    {
      name: 'slabs up to a broken edge',
      what: { look: { from: 'files', names: 'paving_*' }, lay: { by: 'box', metres: 1 } },
      where: { not: { use: 'upper' } },
      how: { relief: { depth: 6 }, shadow: { distance: 16, soft: 22, strength: 0.75, towards: [0.15, 1, 0] } },
    },
    {
      name: 'stones that have strayed onto the slabs',
      what: {
        look: { from: 'values', color: '#8d8478', roughness: 0.85, metallic: 0 },
        lay: { by: 'box' },
      },
      where: {
        all: [
          { of: 'noise', kind: 'cellular', size: 42, layers: 1, seed: 12, to: 0.24, soft: 0.08 },
          { of: 'noise', size: 130, layers: 2, seed: 30, from: 0.55, soft: 0.1 },
          { of: 'position', axis: 'y', from: 120, to: 520, soft: 160 },
        ],
      },
      how: { relief: { depth: 5 }, shadow: { distance: 5, soft: 6, strength: 0.7, towards: [0.15, -1, 0] } },
    },
  ],
};

/** All recipes by the name of their file. */
export const DEMO_RECIPES: Readonly<Record<string, unknown>> = {
  'ticket-post.recipe.json': ticketPost,
  'parcel-locker.recipe.json': parcelLocker,
  'lamp-posts.recipe.json': lampPosts,
  'paving.recipe.json': paving,
  'paving-moss.recipe.json': mossyPaving,
  'paving-to-gravel.recipe.json': pavingToGravel,
};
