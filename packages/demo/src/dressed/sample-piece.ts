import { box, lathe, layCharts, rectangle } from '../geometry.ts';
import { GlbWriter } from '../glb-writer.ts';

/** What conditions and looks are shown on: a plinth, a block with a lid, and a ball on top; three slots on one layout. */
export function buildSamplePiece(): Uint8Array {
  const writer = new GlbWriter();
  const ball: [number, number][] = Array.from({ length: 17 }, (_, i) => {
    const a = (Math.PI * i) / 16;
    return [Math.fround(0.13 * Math.sin(a)), Math.fround(0.13 * (1 + Math.cos(a)))];
  });
  const block = box([0, 0.27, 0], [0.34, 0.3, 0.34]);
  const lid = block.splice(4, 1);
  const groups = [box([0, 0.06, 0], [0.5, 0.12, 0.5]), block, lid, lathe([0, 0.42, 0], ball, 32)];
  const [stone, lidStone, ballStone] = ['Stone', 'Lid', 'Ball'].map((name) => plainMaterial(writer, name));
  const [plinth, sides, top, round] = layCharts(groups, 0.02).map((surface, i) =>
    primitiveOf(writer, surface, [stone, stone, lidStone, ballStone][i]),
  );
  for (const [name, primitives] of Object.entries({ plinth: [plinth], block: [sides, top], ball: [round] }))
    writer.node({ name, mesh: writer.mesh(name, primitives) });
  return writer.glb();
}

/** A slab of 1 m by 1 m, upright, on which a look is seen at its true size. */
export function buildSlab(): Uint8Array {
  const writer = new GlbWriter();
  const [surface] = layCharts([[rectangle([-0.5, 0.5, 0], [1, 0, 0], [0, -1, 0])]], 0.001);
  writer.node({
    name: 'slab',
    mesh: writer.mesh('slab', [primitiveOf(writer, surface, plainMaterial(writer, 'Slab'))]),
  });
  return writer.glb();
}

const plainMaterial = (writer: GlbWriter, name: string): number =>
  writer.material({
    name,
    pbrMetallicRoughness: { baseColorFactor: [0.5, 0.5, 0.5, 1], metallicFactor: 0, roughnessFactor: 0.6 },
  });

function primitiveOf(writer: GlbWriter, surface: ReturnType<typeof layCharts>[number], material: number) {
  return {
    attributes: {
      POSITION: writer.floats(surface.positions, 'VEC3', true),
      NORMAL: writer.floats(surface.normals, 'VEC3'),
      TEXCOORD_0: writer.floats(surface.uvs, 'VEC2'),
    },
    indices: writer.indices(surface.indices),
    material,
  };
}
