import { box, type Chart, disc, lathe, layCharts, moved, rectangle, type Surface } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';
import { brick, clock, enamel, type Look, lamp, metal, paint, stone, timetable, wood, zinc } from './looks.ts';

/**
 * The furniture of the stop: shelter, bench, lamp, clock, ticket post, bin, planter, signs. Twelve slots with their own textures
 * and the shelter's glass, which must stay apart.
 */

interface SlotPlan {
  name: string;
  look: Look;
  size: number;
  /** Share of the square's side that the charts use; many a source leaves most of its texture empty. */
  used?: number;
  /** One entry for each part: name and charts. */
  parts: { name: string; charts: Chart[] }[];
  factors?: Record<string, unknown>;
  extra?: Record<string, unknown>;
}

function shelterFrame(): Chart[] {
  const posts: Chart[] = [];
  for (const x of [-1.7, 1.7]) for (const z of [-0.6, 0.7]) posts.push(...box([x, 1.2, z], [0.08, 2.4, 0.08], 'post'));
  return [
    ...posts,
    ...box([0, 2.36, 0.7], [3.32, 0.08, 0.06], 'rail'),
    ...box([0, 2.36, -0.6], [3.32, 0.08, 0.06], 'rail'),
    ...box([0, 0.16, -0.6], [3.32, 0.06, 0.06]),
  ];
}

function bench(): Chart[] {
  const slats: Chart[] = [];
  for (let i = 0; i < 5; i++)
    slats.push(...box([0, 0.46, -0.32 + i * 0.095], [1.7, 0.035, 0.075], i < 3 ? undefined : 'slat'));
  for (let i = 0; i < 3; i++)
    slats.push(...box([0, 0.62 + i * 0.12, -0.4], [1.7, 0.085, 0.03], i < 2 ? undefined : 'back'));
  return slats;
}

function benchLegs(): Chart[] {
  const leg = (x: number, mirror: boolean) => [
    ...box([x, 0.22, -0.05], [0.06, 0.44, 0.07], 'leg', mirror),
    ...box([x, 0.22, -0.36], [0.06, 0.44, 0.07], 'hind', mirror),
    ...box([x, 0.68, -0.43], [0.06, 0.5, 0.05], 'rest', mirror),
    ...box([x, 0.43, -0.16], [0.06, 0.05, 0.44], 'arm', mirror),
  ];
  return [...leg(-0.78, false), ...leg(0.78, true)];
}

export function furnitureSlots(): SlotPlan[] {
  const ticketPost = [
    ...lathe(
      [2.35, 0, 0.75],
      [
        [0, 1.32],
        [0.05, 1.31],
        [0.13, 1.25],
        [0.14, 1.2],
        [0.14, 0.2],
        [0.17, 0.08],
        [0.19, 0],
      ],
      28,
    ),
    ...box([2.35, 0.98, 0.9], [0.2, 0.26, 0.06]),
  ];
  const lampPost = [
    ...lathe(
      [-2.4, 0, 0.8],
      [
        [0.03, 3.0],
        [0.035, 2.2],
        [0.045, 1.2],
        [0.06, 0.5],
        [0.1, 0.36],
        [0.11, 0.1],
        [0.16, 0.05],
        [0.17, 0],
      ],
      20,
    ),
    ...lathe(
      [-2.4, 3.0, 0.8],
      [
        [0, 0.5],
        [0.05, 0.48],
        [0.19, 0.38],
        [0.21, 0.34],
      ],
      24,
    ),
  ];
  const globe = lathe(
    [-2.4, 3.0, 0.8],
    [
      [0.1, 0.34],
      [0.15, 0.28],
      [0.17, 0.2],
      [0.15, 0.1],
      [0.1, 0.03],
      [0.03, 0],
    ],
    24,
  );
  const bin = lathe(
    [1.95, 0, 0.72],
    [
      [0.15, 0.72],
      [0.19, 0.74],
      [0.19, 0.66],
      [0.18, 0.1],
      [0.15, 0],
    ],
    24,
  );
  const planter = [
    ...box([-1.3, 0.22, 0.85], [0.9, 0.44, 0.06]),
    ...box([-1.3, 0.22, 0.35], [0.9, 0.44, 0.06]),
    ...box([-1.72, 0.22, 0.6], [0.06, 0.44, 0.44], 'end'),
    ...box([-0.88, 0.22, 0.6], [0.06, 0.44, 0.44], 'end'),
    rectangle([-1.69, 0.38, 0.38], [0.78, 0, 0], [0, 0, 0.44]),
  ];
  return [
    { name: 'BenchSlats', look: wood(11), size: 512, parts: [{ name: 'bench', charts: moved(bench(), [0, 0, 0.1]) }] },
    {
      name: 'CastIron',
      look: metal([34, 44, 42], [96, 94, 90], 0.3, 23),
      size: 1024,
      used: 0.5,
      parts: [
        { name: 'bench legs', charts: moved(benchLegs(), [0, 0, 0.1]) },
        { name: 'lamp post', charts: lampPost },
      ],
    },
    {
      name: 'FramePaint',
      look: metal([30, 86, 84], [120, 122, 120], 0.26, 31),
      size: 1024,
      used: 0.5,
      parts: [{ name: 'shelter frame', charts: shelterFrame() }],
    },
    {
      name: 'RoofZinc',
      look: zinc(41),
      size: 1024,
      used: 0.5,
      parts: [{ name: 'roof', charts: box([0, 2.45, 0.05], [3.8, 0.06, 1.7]) }],
    },
    {
      name: 'BackWall',
      look: brick(10, 53),
      size: 1024,
      used: 0.5,
      parts: [{ name: 'back wall', charts: box([0, 1.1, -0.78], [3.5, 2.2, 0.22]) }],
    },
    {
      name: 'Timetable',
      look: timetable,
      size: 512,
      parts: [{ name: 'timetable', charts: [rectangle([0.75, 1.95, -0.66], [0.62, 0, 0], [0, -0.62, 0])] }],
    },
    {
      name: 'TicketEnamel',
      look: enamel([176, 58, 40], [240, 230, 206], 5),
      size: 512,
      parts: [{ name: 'ticket post', charts: ticketPost }],
      factors: { baseColorFactor: [0.96, 0.94, 0.9, 1], roughnessFactor: 0.9 },
    },
    {
      name: 'LampGlobe',
      look: lamp,
      size: 256,
      parts: [{ name: 'lamp globe', charts: globe }],
      extra: {
        emissiveFactor: [1, 0.94, 0.82],
        extensions: { KHR_materials_emissive_strength: { emissiveStrength: 3 } },
      },
    },
    {
      name: 'BinGalvanised',
      look: metal([138, 144, 146], [176, 178, 176], 0.4, 61),
      size: 1024,
      used: 0.5,
      parts: [{ name: 'bin', charts: bin }],
    },
    {
      name: 'ClockFace',
      look: clock,
      size: 512,
      parts: [
        {
          name: 'clock',
          charts: [disc([0, 2.12, 0.79], 0.24, '+z', 40), disc([0, 2.12, 0.67], 0.24, '-z', 40)].map((chart, i) => ({
            ...chart,
            stack: 'face',
            mirrored: i === 1 ? false : chart.mirrored,
          })),
        },
      ],
    },
    {
      name: 'PlanterStone',
      look: stone([136, 132, 120], [176, 170, 156], 71),
      size: 1024,
      used: 0.5,
      parts: [{ name: 'planter', charts: planter }],
      extra: { occlusionStrength: 0.8 },
    },
    {
      name: 'NamePlate',
      look: enamel([24, 62, 96], [242, 238, 224], 13),
      size: 512,
      parts: [
        {
          name: 'name plate',
          charts: [
            rectangle([-1.1, 2.86, 0.16], [2.2, 0, 0], [0, -0.32, 0]),
            rectangle([1.1, 2.86, 0.1], [-2.2, 0, 0], [0, -0.32, 0], undefined),
          ],
        },
      ],
    },
  ];
}

function addSurface(glbWriter: GlbWriter, surface: Surface, material: number, secondUv?: Float32Array) {
  const attributes: Record<string, number> = {
    POSITION: glbWriter.floats(surface.positions, 'VEC3', true),
    NORMAL: glbWriter.floats(surface.normals, 'VEC3'),
    TEXCOORD_0: glbWriter.floats(surface.uvs, 'VEC2'),
  };
  if (secondUv) attributes.TEXCOORD_1 = glbWriter.floats(secondUv, 'VEC2');
  return { attributes, indices: glbWriter.indices(surface.indices), material };
}

/**
 * Writes the furniture.
 * @param textureScale 1 for the demo; smaller for quick tests (¼: 128 px textures) @param variant 1, 2, … have other pictures of the same surfaces
 */
export function buildFurniture(textureScale = 1, variant = 0): Uint8Array {
  const glbWriter = new GlbWriter();
  const root = glbWriter.node({ name: 'stop furniture', extras: { scenario: 'Quillmoor Halt' } });
  for (const slot of furnitureSlots()) {
    const look: Look = variant === 0 ? slot.look : (u, v) => slot.look((u + 0.137 * variant) % 1, v);
    const maps = paint(look, Math.max(16, slot.size * textureScale));
    const orm = glbWriter.texture(maps.orm, `${slot.name}_orm`);
    const { occlusionStrength, ...extra } = (slot.extra ?? {}) as Record<string, unknown>;
    const material = glbWriter.material({
      name: slot.name,
      pbrMetallicRoughness: {
        baseColorTexture: { index: glbWriter.texture(maps.baseColor, `${slot.name}_colour`) },
        metallicRoughnessTexture: { index: orm },
        ...slot.factors,
      },
      normalTexture: { index: glbWriter.texture(maps.normal, `${slot.name}_normal`) },
      occlusionTexture: { index: orm, ...(occlusionStrength ? { strength: occlusionStrength } : {}) },
      ...(maps.emissive ? { emissiveTexture: { index: glbWriter.texture(maps.emissive, `${slot.name}_glow`) } } : {}),
      ...extra,
    });
    const surfaces = layCharts(
      slot.parts.map((part) => part.charts),
      0.012,
      slot.used,
    );
    slot.parts.forEach((part, i) => {
      glbWriter.node(
        { name: part.name, mesh: glbWriter.mesh(part.name, [addSurface(glbWriter, surfaces[i], material)]) },
        root,
      );
    });
  }
  // A second bench across the platform reuses the mesh of the first, turned round.
  const again = (name: string) => glbWriter.json.nodes.findIndex((node) => node.name === name);
  for (const name of ['bench', 'bench legs'])
    glbWriter.node(
      {
        name: `${name} opposite`,
        mesh: glbWriter.json.nodes[again(name)].mesh as number,
        translation: [0, 0, 2.6],
        rotation: [0, 1, 0, 0],
      },
      root,
    );
  const glass = glbWriter.material({
    name: 'ShelterGlass',
    alphaMode: 'BLEND',
    pbrMetallicRoughness: { baseColorFactor: [0.78, 0.88, 0.86, 0.28], metallicFactor: 0, roughnessFactor: 0.08 },
  });
  const [panes] = layCharts([
    [...box([-1.7, 1.25, 0.05], [0.012, 2.0, 1.2]), ...box([1.7, 1.25, 0.05], [0.012, 2.0, 1.2])],
  ]);
  glbWriter.node({ name: 'panes', mesh: glbWriter.mesh('panes', [addSurface(glbWriter, panes, glass)]) }, root);
  return glbWriter.glb();
}
