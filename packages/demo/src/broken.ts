import { buildGlb, parseGlb, utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { layCharts, rectangle } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';
import { enamel, paint } from './looks.ts';

/** A small sign, whole and sound: what the broken ones are made from. */
export function sign(
  options: {
    uvs?: boolean;
    position?: number;
    index?: number;
    names?: string[];
    texture?: boolean;
    picture?: Uint8Array;
  } = {},
): GlbWriter {
  const glbWriter = new GlbWriter();
  const maps = paint(enamel([24, 62, 96], [242, 238, 224], 6), 64);
  const names = options.names ?? ['SignEnamel'];
  const [surface] = layCharts([[rectangle([0, 0.4, 0], [0.6, 0, 0], [0, -0.4, 0])]]);
  if (options.position !== undefined) surface.positions[4] = options.position;
  if (options.index !== undefined) surface.indices[5] = options.index;
  const primitives = names.map((name, i) => {
    const material = glbWriter.material({
      name,
      pbrMetallicRoughness:
        options.texture === false
          ? { baseColorFactor: [0.2, 0.4 + 0.3 * i, 0.5, 1] }
          : {
              baseColorTexture: { index: glbWriter.texture(options.picture ?? maps.baseColor, `${name}_colour`) },
              baseColorFactor: [1, 1 - 0.2 * i, 1, 1],
            },
    });
    const attributes: Record<string, number> = {
      POSITION: glbWriter.floats(surface.positions, 'VEC3', true),
      NORMAL: glbWriter.floats(surface.normals, 'VEC3'),
    };
    if (options.uvs !== false) attributes.TEXCOORD_0 = glbWriter.floats(surface.uvs, 'VEC2');
    return { attributes, indices: glbWriter.indices(surface.indices), material };
  });
  glbWriter.node({ name: 'sign', mesh: glbWriter.mesh('sign', primitives) });
  return glbWriter;
}

/** Changes the JSON of a GLB and packs it again. */
function withJson(glb: Uint8Array, change: (json: never) => void): Uint8Array {
  const { json, bin } = parseGlb('demo', glb);
  change(json as never);
  return buildGlb(json, bin);
}

type Any = { [k: string]: never } & Record<string, unknown>;

/** Files that cannot be read, each for one reason. */
export function brokenFiles(): Record<string, Uint8Array> {
  const good = sign().glb();
  const external = sign();
  const doc = external.document('sign.bin') as Record<string, unknown>;
  doc.images = [{ uri: 'sign_colour.png', name: 'colour' }];
  return {
    'missing-texture.gltf': utf8Bytes(JSON.stringify(doc, null, 1)),
    'sign.bin': external.bin(),
    'truncated.glb': good.slice(0, Math.floor(good.length * 0.6)),
    'index-out-of-range.glb': sign({ index: 4711 }).glb(),
    'nan-positions.glb': sign({ position: Number.NaN }).glb(),
    'circle-of-nodes.glb': withJson(good, (j: Any) => {
      (j.nodes as unknown as Record<string, unknown>[]).push(
        { name: 'a', children: [2] },
        { name: 'b', children: [1] },
      );
    }),
    'wrong-version.glb': withJson(good, (j: Any) => {
      (j.asset as Record<string, unknown>).version = '1.0';
    }),
    'picture-cut-short.glb': cutPicture(good),
  };
}

function cutPicture(glb: Uint8Array): Uint8Array {
  return withJson(glb, (j: Any) => {
    const images = j.images as unknown as { bufferView: number }[];
    const views = j.bufferViews as unknown as { byteLength: number }[];
    views[images[0].bufferView].byteLength = Math.floor(views[images[0].bufferView].byteLength / 2);
  });
}

/** Files that can be read but need care. */
export function awkwardFiles(): Record<string, Uint8Array> {
  const overlapping = sign({ names: ['Front', 'Back'] });
  return {
    'no-uvs.glb': sign({ uvs: false }).glb(),
    'overlapping-uvs.glb': overlapping.glb(),
    'two-slots-of-one-name.glb': sign({ names: ['Enamel', 'Enamel'] }).glb(),
    'flat-colours.glb': sign({ names: ['Red', 'Green'], texture: false }).glb(),
  };
}
