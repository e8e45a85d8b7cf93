import { Recipe } from '@wembrel/core/decisions/recipe/recipe';

/** A recipe to begin with that fits any model: paint, worn at its edges, with dirt in crevices and dust on what looks up. */
export const WORN: Recipe = Recipe.parse({
  recipe: 1,
  name: 'Worn paint',
  lines: [
    { name: 'paint', what: { look: { from: 'stock', look: 'paint' }, lay: { by: 'box' } } },
    { name: 'colour', what: { change: 'multiply', color: '#6f9186' } },
    {
      name: 'worn edges',
      what: { look: { from: 'stock', look: 'zinc' } },
      where: {
        all: [
          { of: 'convex', from: 0.25, soft: 0.15 },
          { of: 'noise', size: 60, from: 0.4, soft: 0.2 },
        ],
      },
    },
    {
      name: 'dirt in crevices',
      what: { look: { from: 'stock', look: 'grime' } },
      where: { of: 'ao', to: 0.6, soft: 0.5 },
      how: { strength: 0.7 },
    },
    {
      name: 'dust on what looks up',
      what: { look: { from: 'values', color: '#b9b19c', roughness: 0.95, metallic: 0 } },
      where: { of: 'facing', to: 30, soft: 40 },
      how: { strength: 0.4 },
    },
  ],
});
