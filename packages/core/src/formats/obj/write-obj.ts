import type { Material } from '@gltf-transform/core';
import { determinant3, type Mat4, normalMatrix, transformDirections, transformPoints } from '../../math/mat4.ts';
import type { Model, Part } from '../../scene/model.ts';

/** Digits that hold a float of 32 bits exactly. */
const text = (v: number): string => String(Math.fround(v));

/** A name on one line, without blanks at its ends. */
const line = (name: string): string => name.replace(/\s+/gu, ' ').trim() || 'unnamed';

/** Names of a model's slots, so that no two materials of the MTL share one. */
function slotNames({ slots }: Pick<Model, 'slots'>): string[] {
  const taken = new Set<string>();
  return slots.map(({ name }) => {
    let free = line(name);
    for (let n = 2; taken.has(free); n++) free = `${line(name)} ${n}`;
    taken.add(free);
    return free;
  });
}

/**
 * A model as OBJ: what is drawn, in the scene's own measure, Y up, V up. Positions, the first UV set and normals; skins, morphs, colours and
 * animations have no place in the format. Copies of GPU instancing are left out.
 * @param mtl file of its materials, beside it
 */
export function writeObj(model: Pick<Model, 'parts' | 'slots'>, mtl: string): string {
  const names = slotNames(model);
  const out: string[] = [`mtllib ${mtl}`];
  const counts = { v: 0, vt: 0, vn: 0 };
  for (const part of model.parts)
    for (const { node, world, copies } of part.instances) {
      if (copies > 1) continue;
      out.push(`o ${line(node.getName() || part.name)}`, `usemtl ${names[part.slot]}`);
      writePart(part, world, counts, out);
    }
  return `${out.join('\n')}\n`;
}

function writePart(part: Part, world: Mat4, counts: { v: number; vt: number; vn: number }, out: string[]): void {
  const { indices, normals } = part;
  const [uvs] = part.uvs;
  const positions = transformPoints(part.positions, world);
  const turned = normals && transformDirections(normals, normalMatrix(world));
  for (let i = 0; i < positions.length; i += 3)
    out.push(`v ${text(positions[i])} ${text(positions[i + 1])} ${text(positions[i + 2])}`);
  if (uvs) for (let i = 0; i < uvs.length; i += 2) out.push(`vt ${text(uvs[i])} ${text(1 - uvs[i + 1])}`);
  if (turned)
    for (let i = 0; i < turned.length; i += 3)
      out.push(`vn ${text(turned[i])} ${text(turned[i + 1])} ${text(turned[i + 2])}`);
  const corner = (index: number) => {
    const vt = uvs ? String(counts.vt + index + 1) : '';
    const vn = turned ? `/${counts.vn + index + 1}` : '';
    return `${counts.v + index + 1}${uvs || turned ? `/${vt}${vn}` : ''}`;
  };
  // A mirrored node shows the other side of its triangles.
  const order = determinant3(world) < 0 ? [0, 2, 1] : [0, 1, 2];
  for (let t = 0; t + 2 < indices.length; t += 3) out.push(`f ${order.map((k) => corner(indices[t + k])).join(' ')}`);
  counts.v += positions.length / 3;
  counts.vt += uvs ? uvs.length / 2 : 0;
  counts.vn += turned ? turned.length / 3 : 0;
}

/**
 * The materials of a model as MTL with the usual extension for metallic and roughness; packed images are named with the channel that is meant
 * (`-imfchan`). Textures are named by their addresses, those inside the model's file not at all.
 */
export function writeMtl(model: Pick<Model, 'slots'>): string {
  const names = slotNames(model);
  return `${model.slots.map(({ material }, i) => [`newmtl ${names[i]}`, ...materialLines(material)].join('\n')).join('\n\n')}\n`;
}

function materialLines(material: Material | null): string[] {
  if (!material) return ['Kd 1 1 1', 'd 1', 'Pm 1', 'Pr 1'];
  const [r, g, b, a] = material.getBaseColorFactor();
  const [er, eg, eb] = material.getEmissiveFactor();
  const map = (key: string, uri: string | undefined) => (uri ? [`${key} ${decodeURIComponent(uri)}`] : []);
  const base = material.getBaseColorTexture()?.getURI();
  const orm = material.getMetallicRoughnessTexture()?.getURI();
  const see = material.getAlphaMode() === 'OPAQUE' ? [] : map('map_d -imfchan m', base);
  return [
    `Kd ${text(r)} ${text(g)} ${text(b)}`,
    `d ${text(a)}`,
    `Ke ${text(er)} ${text(eg)} ${text(eb)}`,
    `Pm ${text(material.getMetallicFactor())}`,
    `Pr ${text(material.getRoughnessFactor())}`,
    ...map('map_Kd', base),
    ...see,
    ...map('map_Ke', material.getEmissiveTexture()?.getURI()),
    ...map('map_Pm -imfchan b', orm),
    ...map('map_Pr -imfchan g', orm),
    ...map('norm', material.getNormalTexture()?.getURI()),
  ];
}
