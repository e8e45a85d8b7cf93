import { box, type Chart, lathe, rectangle } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';
import { brick, enamel, metal, paint, stone } from './looks.ts';

/** Larger pieces of the halt: each is there for one trouble that it brings. */

interface Laid {
  positions: number[];
  normals: number[];
  uvs: number[];
  indices: number[];
}

/** Charts one after another; `place` says where a corner of each lies in the texture. */
export function laid(charts: Chart[], place: (chart: number, u: number, v: number) => [number, number]): Laid {
  const out: Laid = { positions: [], normals: [], uvs: [], indices: [] };
  charts.forEach((chart, n) => {
    const base = out.positions.length / 3;
    // One by one: a bollard has more corners than a call may have arguments.
    for (const v of chart.positions) out.positions.push(v);
    for (const v of chart.normals) out.normals.push(v);
    for (const v of chart.indices) out.indices.push(v + base);
    for (let k = 0; k < chart.local.length; k += 2) out.uvs.push(...place(n, chart.local[k], chart.local[k + 1]));
  });
  return out;
}

export function primitive(glbWriter: GlbWriter, laid: Laid, material: number) {
  return {
    attributes: {
      POSITION: glbWriter.floats(Float32Array.from(laid.positions), 'VEC3', true),
      NORMAL: glbWriter.floats(Float32Array.from(laid.normals), 'VEC3'),
      TEXCOORD_0: glbWriter.floats(Float32Array.from(laid.uvs), 'VEC2'),
    },
    indices: glbWriter.indices(Uint32Array.from(laid.indices)),
    material,
  };
}

export function textured(
  glbWriter: GlbWriter,
  name: string,
  look: Parameters<typeof paint>[0],
  size: number,
  rows = size,
): number {
  const maps = paint(look, size, rows);
  return glbWriter.material({
    name,
    pbrMetallicRoughness: {
      baseColorTexture: { index: glbWriter.texture(maps.baseColor, `${name}_colour`) },
      metallicRoughnessTexture: { index: glbWriter.texture(maps.orm, `${name}_orm`) },
    },
    normalTexture: { index: glbWriter.texture(maps.normal, `${name}_normal`) },
  });
}

/** A bollard of 60 000 triangles, thirty times along the platform. @param sides 250 for the demo; fewer for quick tests */
export function buildBollards(sides = 250): Uint8Array {
  const glbWriter = new GlbWriter();
  const rings = Math.max(4, Math.round(sides * 0.48));
  const profile = Array.from({ length: rings + 1 }, (_, i): [number, number] => {
    const t = i / rings;
    const bead = 0.012 * Math.sin(t * 40) ** 2;
    return [t < 0.04 ? 0.001 + t * 2.2 : 0.09 + 0.03 * t + bead, 0.9 * (1 - t)];
  });
  const charts = lathe([0, 0, 0], profile, sides);
  const chart = charts[0];
  const material = textured(glbWriter, 'BollardIron', metal([40, 46, 44], [110, 106, 100], 0.3, 83), 512);
  const mesh = glbWriter.mesh('bollard', [
    primitive(
      glbWriter,
      laid(charts, (_, u, v) => [0.01 + (0.98 * u) / chart.width, 0.01 + (0.98 * v) / chart.height]),
      material,
    ),
  ]);
  const root = glbWriter.node({ name: 'bollards' });
  for (let i = 0; i < 30; i++)
    glbWriter.node({ name: `bollard ${i + 1}`, mesh, translation: [(i % 15) * 1.6 - 11, 0, i < 15 ? 0 : 4] }, root);
  return glbWriter.glb();
}

/** Shelter walls: one brick texture, laid many times over. */
export function buildWalls(): Uint8Array {
  const glbWriter = new GlbWriter();
  const material = textured(glbWriter, 'TiledBrick', brick(8, 97), 512);
  const charts = [
    ...box([0, 1.1, -0.8], [4.8, 2.2, 0.22]),
    ...box([-2.4, 1.1, 0], [0.22, 2.2, 1.6]),
    ...box([2.4, 1.1, 0], [0.22, 2.2, 1.6]),
  ];
  // One repeat is 0.8 m.
  glbWriter.node({
    name: 'walls',
    mesh: glbWriter.mesh('walls', [
      primitive(
        glbWriter,
        laid(charts, (_, u, v) => [u / 0.8, v / 0.8]),
        material,
      ),
    ]),
  });
  return glbWriter.glb();
}

/** The tram's body over four UV tiles, the last two much sharper than the first two. */
export function buildTram(): Uint8Array {
  const glbWriter = new GlbWriter();
  const material = textured(glbWriter, 'TramBody', enamel([150, 36, 34], [236, 222, 190], 11), 1024);
  const sides: Chart[] = [
    rectangle([-4, 2.6, 1.1], [8, 0, 0], [0, -2, 0]),
    rectangle([4, 2.6, -1.1], [-8, 0, 0], [0, -2, 0]),
    rectangle([4, 2.6, 1.1], [0, 0, -2.2], [0, -2, 0]),
    rectangle([-4, 2.6, -1.1], [0, 0, 2.2], [0, -2, 0]),
  ];
  const place = (chart: number, u: number, v: number): [number, number] => {
    const side = sides[chart];
    return [
      chart + 0.02 + (0.96 * u) / Math.max(side.width, side.height),
      0.02 + (0.96 * v) / Math.max(side.width, side.height),
    ];
  };
  glbWriter.node({
    name: 'tram body',
    mesh: glbWriter.mesh('tram body', [primitive(glbWriter, laid(sides, place), material)]),
  });
  return glbWriter.glb();
}

/** Planter boxes whose four materials differ only by a colour. */
export function buildPlanters(): Uint8Array {
  const glbWriter = new GlbWriter();
  const colours: [string, number[]][] = [
    ['PlanterRed', [0.42, 0.05, 0.03, 1]],
    ['PlanterBlue', [0.02, 0.06, 0.2, 1]],
    ['PlanterGreen', [0.02, 0.14, 0.08, 1]],
    ['PlanterOchre', [0.5, 0.3, 0.06, 1]],
  ];
  const root = glbWriter.node({ name: 'planters' });
  colours.forEach(([name, baseColorFactor], i) => {
    const material = glbWriter.material({
      name,
      pbrMetallicRoughness: { baseColorFactor, metallicFactor: 0, roughnessFactor: 0.7 },
    });
    const charts = box([i * 1.2 - 1.8, 0.25, 0], [0.9, 0.5, 0.45]);
    glbWriter.node(
      {
        name: `planter ${i + 1}`,
        mesh: glbWriter.mesh(name, [
          primitive(
            glbWriter,
            laid(charts, (_, u, v) => [u, v]),
            material,
          ),
        ]),
      },
      root,
    );
  });
  return glbWriter.glb();
}

/** A kiosk without a texture of its own; its pictures lie beside it, found by their names. */
export function buildKiosk(): Record<string, Uint8Array> {
  const glbWriter = new GlbWriter();
  const root = glbWriter.node({ name: 'kiosk' });
  const parts: [string, Chart[]][] = [
    ['Panels', box([0, 1.1, 0], [1.6, 2.2, 1.2])],
    ['Plinth', box([0, 0.05, 0], [1.8, 0.1, 1.4])],
  ];
  for (const [name, charts] of parts) {
    const material = glbWriter.material({ name, pbrMetallicRoughness: { metallicFactor: 0, roughnessFactor: 0.8 } });
    const n = charts.length;
    glbWriter.node(
      {
        name,
        mesh: glbWriter.mesh(name, [
          primitive(
            glbWriter,
            laid(charts, (c, u, v) => [
              (c + 0.05 + (0.9 * u) / charts[c].width) / n,
              0.05 + (0.9 * v) / charts[c].height,
            ]),
            material,
          ),
        ]),
      },
      root,
    );
  }
  const panels = paint(enamel([30, 86, 84], [242, 238, 224], 9), 256);
  const plinth = paint(stone([120, 118, 110], [160, 156, 146], 31), 256);
  return {
    'kiosk.glb': glbWriter.glb(),
    'kiosk_Panels_BaseColor.png': panels.baseColor,
    'kiosk_Panels_ORM.png': panels.orm,
    'kiosk_Panels_Normal.png': panels.normal,
    'Plinth-basecolor.png': plinth.baseColor,
    'kiosk sketch.png': plinth.normal,
  };
}
