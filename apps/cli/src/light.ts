import type { VertexLight } from '@wembrel/core/decisions/light-decisions';
import { Cancelled } from '@wembrel/core/errors';
import { linearOf } from '@wembrel/core/image/srgb';
import { lightVertices } from '@wembrel/core/rays/cast/vertex-light';
import { cutAwayPictures } from '@wembrel/runner/rays/cut-away';
import { real, UsageError, type Values, whole } from './arguments.ts';
import { verb } from './change.ts';

function lightFrom(values: Values): VertexLight {
  const rays = whole(values, 'rays', 64, 4, 4096);
  const strength = real(values, 'ao', 0, 1) ?? 1;
  let sun: VertexLight['sun'] = null;
  if (typeof values.sun === 'string') {
    const direction = values.sun.split(',').map(Number);
    if (direction.length !== 3 || !direction.every(Number.isFinite) || direction.every((v) => v === 0))
      throw new UsageError('--sun takes X,Y,Z: the way to the sun');
    const tint = typeof values.tint === 'string' ? values.tint : '#ffffff';
    if (!/^#[0-9a-f]{6}$/i.test(tint)) throw new UsageError('--tint takes a colour as #rrggbb');
    sun = {
      direction: direction as [number, number, number],
      softness: real(values, 'softness', 0, 60) ?? 2,
      strength: real(values, 'strength', 0, 1) ?? 0.7,
      tint: linearOf(tint),
      rays: Math.max(4, Math.round(rays / 2)),
    };
  }
  if (strength === 0 && !sun) throw new UsageError('light needs --ao above 0, or --sun X,Y,Z');
  const distance = real(values, 'distance', 0, 1e9) ?? 1e9;
  return { ao: strength > 0 ? { rays, distance, strength } : null, sun };
}

/** `wembrel light`. */
export const light = verb('light', {
  usage: 'wembrel light INPUT… --out DIR',
  about:
    'Multiplies AO and a simple sun into the vertex colours of every model. Everything in a file casts shadows on everything else in it,\nbut for what alpha-tested materials cut away; a mesh that is placed several times gets the light of its first place.',
  options: {
    ao: { type: 'string', value: '0…1', help: 'how dark AO gets (default 1; 0 for none)' },
    distance: { type: 'string', value: 'M', help: 'how far AO looks, metres (default: without limit)' },
    rays: { type: 'string', value: 'N', help: 'AO rays at each corner of a face (default 64)' },
    sun: { type: 'string', value: 'X,Y,Z', help: 'the way to the sun (default: none)' },
    softness: { type: 'string', value: 'DEG', help: 'half the angle under which the sun is seen (default 2)' },
    strength: { type: 'string', value: '0…1', help: "the sun's share of the light (default 0.7)" },
    tint: { type: 'string', value: '#rrggbb', help: 'its colour (default white)' },
  },
  examples: [
    'wembrel light platform.glb --out lit --sun 1,2,1 --tint #ffe2b0',
    'wembrel light kiosk.glb --out lit --distance 0.5',
  ],
  prepare: (values) => {
    const recipe = lightFrom(values);
    const slots = (values.slot as string[] | undefined) ?? [];
    return async (model, progress, cancelled) =>
      lightVertices(model, recipe, {
        progress: (share) => {
          if (cancelled()) throw new Cancelled();
          progress(share);
        },
        slots,
        pictures: await cutAwayPictures(model),
      });
  },
  heads: ['vertices', 'meshes at several places'],
  cells: (r) => [String(r.vertices), String(r.severalPlaces)],
});
