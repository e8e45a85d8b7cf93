import type { CollisionSpec } from '@wembrel/core/collide/collide';
import { addShapes, emptyDocument, type NamedShapes, shapesOfModel } from '@wembrel/core/collide/of-model';
import { COLLISION_KINDS, type Collision } from '@wembrel/core/decisions/collision';
import { stem } from '@wembrel/core/handover/names';
import { choice, type OptionSpec, UsageError, type Values, whole } from './arguments.ts';
import { verb } from './change.ts';

/** What was made for one model, of all its shapes together. */
interface Collided {
  shapes: number;
  triangles: number;
  /** m³ */
  volume: number;
  hullVolume: number;
  /** Share of the longest side. */
  outside: number;
  /** Of pieces, share of the longest side. */
  error: number | null;
}

/** Options of verbs that hand over collision shapes beside the models. */
export const COLLISION: Record<string, OptionSpec> = {
  collision: {
    type: 'string',
    value: 'box|sphere|capsule|hull|pieces',
    help: 'also write collision shapes, each model its own file in collision/',
  },
  'collision-faces': { type: 'string', value: 'N', help: 'most flat faces of a hull (default 32)' },
  'collision-pieces': { type: 'string', value: 'N', help: 'most convex pieces of a model (default 8)' },
  'collision-by': { type: 'string', value: 'model|object', help: 'one for a model, or one for each node that draws' },
};

/** The collision shapes that options ask for. @throws UsageError */
export const collisionFrom = (values: Values): Collision => ({
  as: choice(values, 'collision', 'none', ['none', ...COLLISION_KINDS]),
  faces: whole(values, 'collision-faces', 32, 6, 255),
  pieces: whole(values, 'collision-pieces', 8, 1, 64),
  by: choice(values, 'collision-by', 'model', ['model', 'object']),
});

/** `wembrel collide`. */
export const collide = verb<Collided>('collide', {
  usage: 'wembrel collide INPUT… --as box|sphere|capsule|hull|pieces --out DIR',
  about:
    'Adds collision shapes to every model, as nodes NAME_collision: the least oriented box, the least sphere or capsule, the convex hull of\nat most so many faces, or convex pieces. Every vertex that is drawn lies inside. What a round shape exactly is stands in its extras.',
  options: {
    as: { type: 'string', value: 'box|sphere|capsule|hull|pieces', help: 'kind of shape (needed)' },
    faces: { type: 'string', value: 'N', help: 'most flat faces of a hull (default 32)' },
    pieces: { type: 'string', value: 'N', help: 'most convex pieces (default 8)' },
    by: {
      type: 'string',
      value: 'model|object',
      help: 'one for a model, or one for each node that draws (default model)',
    },
    alone: { type: 'boolean', help: 'write the shapes alone, without the model' },
  },
  examples: [
    'wembrel collide props/ --as hull --faces 24 --out props-out',
    'wembrel collide shelter.glb --as pieces --pieces 12 --alone --out collision',
  ],
  prepare: (values) => {
    const spec = specFrom(values);
    const by = choice(values, 'by', 'model', ['model', 'object']);
    return (model) => {
      const shapes = shapesOfModel(model, stem(model.path), by, spec);
      if (values.alone) emptyDocument(model.document);
      addShapes(model.document, shapes, spec.as);
      return summed(shapes);
    };
  },
  heads: ['shapes', 'triangles', 'volume', 'of the hull', 'outside'],
  cells: ({ shapes, triangles, volume, hullVolume, outside }) => [
    String(shapes),
    String(triangles),
    `${volume.toPrecision(4)} m³`,
    `${((100 * volume) / hullVolume).toFixed(1)} %`,
    `${(outside * 100).toFixed(3)} %`,
  ],
});

/** The kind of shape and its bounds. @throws UsageError */
function specFrom(values: Values): CollisionSpec {
  if (values.as === undefined) throw new UsageError('collide needs --as box, sphere, capsule, hull or pieces');
  return {
    as: choice(values, 'as', 'hull', COLLISION_KINDS),
    faces: whole(values, 'faces', 32, 6, 255),
    pieces: whole(values, 'pieces', 8, 1, 64),
  };
}

function summed(shapes: readonly NamedShapes[]): Collided {
  const solids = shapes.flatMap((shape) => shape.solids);
  const sum = (key: 'volume' | 'hullVolume') => shapes.reduce((all, shape) => all + shape[key], 0);
  const errors = shapes.flatMap(({ error }) => (error === null ? [] : [error]));
  return {
    shapes: solids.length,
    triangles: solids.reduce((all, { faces }) => all + faces.reduce((n, face) => n + face.length - 2, 0), 0),
    volume: sum('volume'),
    hullVolume: sum('hullVolume'),
    outside: Math.max(...shapes.map((shape) => shape.outside)),
    error: errors.length > 0 ? Math.max(...errors) : null,
  };
}
