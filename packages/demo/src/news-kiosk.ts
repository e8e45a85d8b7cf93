import { box, type Chart, disc, lathe, rectangle, type Vec } from './geometry.ts';
import { GlbWriter } from './glb-writer.ts';
import { brick, enamel, type Look, lamp, metal, paint, stone, timetable, wood, zinc } from './looks.ts';
import { laid, primitive } from './pieces.ts';

/**
 * The news kiosk of the halt, far too heavy: every rivet, turned column and roof ridge is modelled, its panels are finely divided, and shelves with jars stand inside
 * where nobody sees them. A dozen slots, four maps each.
 */

/** How finely things are divided: 1 gives about 250 000 triangles. */
type Detail = (divisions: number) => number;

/** A rectangle divided into a grid, bent outward by a height at each place; 0 ≤ s, t ≤ 1. */
function bent(
  origin: Vec,
  u: Vec,
  v: Vec,
  across: number,
  down: number,
  bend: (s: number, t: number) => number,
): Chart {
  const flat = rectangle(origin, u, v);
  const [nx, ny, nz] = flat.normals;
  const at = (s: number, t: number): Vec => {
    const h = bend(s, t);
    return [0, 1, 2].map((k) => origin[k] + u[k] * s + v[k] * t + [nx, ny, nz][k] * h) as Vec;
  };
  const out: Chart = { ...flat, positions: [], normals: [], local: [], indices: [] };
  const step = 1e-3;
  for (let j = 0; j <= down; j++)
    for (let i = 0; i <= across; i++) {
      const [s, t] = [i / across, j / down];
      out.positions.push(...at(s, t));
      const ds = (bend(Math.min(1, s + step), t) - bend(Math.max(0, s - step), t)) / (2 * step * flat.width);
      const dt = (bend(s, Math.min(1, t + step)) - bend(s, Math.max(0, t - step))) / (2 * step * flat.height);
      const tilted = [0, 1, 2].map((k) => [nx, ny, nz][k] - (ds * u[k]) / flat.width - (dt * v[k]) / flat.height);
      const length = Math.hypot(...tilted);
      out.normals.push(...tilted.map((value) => value / length));
      out.local.push(s * flat.width, t * flat.height);
    }
  for (let j = 0; j < down; j++)
    for (let i = 0; i < across; i++) {
      const a = j * (across + 1) + i;
      const b = a + across + 1;
      out.indices.push(a, b, a + 1, a + 1, b, b + 1);
    }
  return out;
}

const SIDES = 8;
const RADIUS = 1.1;
const HEIGHT = 2.4;

/** Corners of the eight-sided body, from the front on. */
const corner = (i: number, radius = RADIUS): [x: number, z: number] => {
  const angle = ((i - 0.5) * 2 * Math.PI) / SIDES;
  return [radius * Math.sin(angle), radius * Math.cos(angle)];
};

/** A panel with a raised field and beads around it. */
const panelled = (s: number, t: number): number => {
  const edge = Math.min(s, 1 - s, t * 2, (1 - t) * 2);
  const field = edge > 0.16 ? 0.018 : 0;
  const bead = 0.012 * Math.max(0, 1 - Math.abs(edge - 0.12) / 0.03);
  return field + bead;
};

function walls(detail: Detail, sides: readonly number[], bend: (s: number, t: number) => number): Chart[] {
  return sides.map((i) => {
    const [ax, az] = corner(i);
    const [bx, bz] = corner(i + 1);
    return bent([ax, HEIGHT, az], [bx - ax, 0, bz - az], [0, 0.2 - HEIGHT, 0], detail(70), detail(96), bend);
  });
}

function columns(detail: Detail): Chart[] {
  const rings = detail(56);
  const profile = Array.from({ length: rings + 1 }, (_, i): [number, number] => {
    const t = i / rings;
    const swell = 0.012 * Math.sin(t * 28) ** 2 + (t < 0.06 || t > 0.94 ? 0.025 : 0);
    return [0.05 + swell, HEIGHT * (1 - t)];
  });
  return Array.from({ length: SIDES }, (_, i) => {
    const [x, z] = corner(i, RADIUS + 0.06);
    return lathe([x, 0, z], profile, detail(44));
  }).flat();
}

function roof(detail: Detail): Chart[] {
  const rings = detail(90);
  return lathe(
    [0, HEIGHT, 0],
    Array.from({ length: rings + 1 }, (_, i): [number, number] => {
      const t = i / rings;
      return [0.02 + 1.45 * t ** 0.8 + 0.01 * Math.sin(t * 60) ** 2, 0.95 * (1 - t) ** 1.4];
    }),
    detail(150),
  );
}

function rivets(detail: Detail): Chart[] {
  const dome: [number, number][] = Array.from({ length: 5 }, (_, i) => [
    0.014 * Math.sin((i * Math.PI) / 8) + 1e-4,
    0.014 * Math.cos((i * Math.PI) / 8),
  ]);
  const out: Chart[] = [];
  for (let i = 0; i < 96; i++) {
    const angle = (i * 2 * Math.PI) / 96;
    out.push(...lathe([1.2 * Math.sin(angle), 0.2, 1.2 * Math.cos(angle)], dome, Math.max(5, detail(12))));
  }
  return out;
}

/** Papers on the counter, each slightly turned away from the one below. */
function papers(): Chart[] {
  const out: Chart[] = [];
  for (let stack = 0; stack < 6; stack++)
    for (let i = 0; i < 12; i++)
      out.push(
        ...box([-0.5 + stack * 0.2 + 0.004 * (i % 3), 1.02 + 0.012 * i, 1.22 + 0.003 * (i % 2)], [0.15, 0.011, 0.22]),
      );
  return out;
}

/** What stands inside and is never seen. */
function jars(detail: Detail): Chart[] {
  const rings = detail(18);
  const profile = Array.from({ length: rings + 1 }, (_, i): [number, number] => {
    const t = i / rings;
    return [0.03 + 0.02 * Math.sin(t * Math.PI), 0.16 * (1 - t)];
  });
  const out: Chart[] = [];
  for (let i = 0; i < 30; i++)
    out.push(...lathe([-0.4 + (i % 6) * 0.16, 0.5 + 0.4 * Math.floor(i / 6), -0.3], profile, detail(26)));
  return out;
}

function awning(detail: Detail): Chart {
  const [ax, az] = corner(0);
  const [bx] = corner(1);
  return bent(
    [ax, 2.3, az + 0.05],
    [bx - ax, 0, 0],
    [0, -0.28, 0.55],
    detail(150),
    detail(36),
    (s, t) => 0.02 * Math.sin(s * 60) * t,
  );
}

interface KioskSlot {
  name: string;
  look: Look;
  charts: Chart[];
}

function slots(detail: Detail): KioskSlot[] {
  const [front, ...others] = Array.from({ length: SIDES }, (_, i) => i);
  const back = others.slice(2, 5);
  const flanks = others.filter((i) => !back.includes(i));
  return [
    { name: 'KioskPanels', look: enamel([28, 84, 72], [236, 228, 206], 11), charts: walls(detail, flanks, panelled) },
    { name: 'KioskBoards', look: wood(21), charts: walls(detail, back, (s) => 0.006 * Math.sin(s * 90) ** 2) },
    { name: 'KioskFront', look: timetable, charts: walls(detail, [front], panelled) },
    { name: 'KioskColumns', look: metal([34, 44, 42], [120, 112, 100], 0.25, 31), charts: columns(detail) },
    { name: 'KioskRoof', look: zinc(51), charts: [...roof(detail), disc([0, HEIGHT, 0], 1.47, '-y', detail(150))] },
    {
      name: 'KioskPlinth',
      look: brick(12, 61),
      charts: lathe(
        [0, 0, 0],
        [
          [1.32, 0.2],
          [1.32, 0],
        ],
        detail(120),
      ),
    },
    {
      name: 'KioskStep',
      look: stone([120, 116, 108], [168, 162, 150], 71),
      charts: [
        disc([0, 0.2, 0], 1.32, '+y', detail(120)),
        disc([0, 0, 0], 1.32, '-y', detail(120)),
        ...box([0, 0.05, 1.5], [1.1, 0.1, 0.4]),
      ],
    },
    { name: 'KioskRivets', look: metal([70, 66, 60], [150, 142, 130], 0.6, 81), charts: rivets(detail) },
    { name: 'KioskCounter', look: wood(91), charts: box([0, 0.98, 1.2], [1.2, 0.06, 0.36]) },
    { name: 'KioskPapers', look: timetable, charts: papers() },
    { name: 'KioskAwning', look: enamel([170, 52, 40], [238, 226, 204], 103), charts: [awning(detail)] },
    {
      name: 'KioskLamps',
      look: lamp,
      charts: [-0.7, 0.7].flatMap((x) => lathe([x, 1.9, 1.35], globe(detail), detail(40))),
    },
    { name: 'KioskJars', look: enamel([90, 120, 160], [230, 230, 226], 113), charts: jars(detail) },
  ];
}

const globe = (detail: Detail): [number, number][] =>
  Array.from({ length: detail(28) + 1 }, (_, i): [number, number] => {
    const angle = (i / detail(28)) * Math.PI;
    return [0.1 * Math.sin(angle) + 1e-4, 0.1 + 0.1 * Math.cos(angle)];
  });

/**
 * @param detail of its surfaces: 1 gives about 250 000 triangles, an eighth a few thousand @param texture side of its maps, px
 */
export function buildNewsKiosk(detail = 1, texture = 512): Uint8Array {
  const n: Detail = (divisions) => Math.max(3, Math.round(divisions * Math.sqrt(detail)));
  const writer = new GlbWriter();
  const root = writer.node({ name: 'news kiosk' });
  for (const { name, look, charts } of slots(n)) {
    const maps = paint(look, texture);
    const image = (bytes: Uint8Array, ending: string) => ({ index: writer.texture(bytes, `${name}_${ending}`) });
    const material = writer.material({
      name,
      pbrMetallicRoughness: {
        baseColorTexture: image(maps.baseColor, 'colour'),
        metallicRoughnessTexture: image(maps.orm, 'surface'),
      },
      normalTexture: image(maps.normal, 'normal'),
      occlusionTexture: image(paint(look, texture / 2).orm, 'occlusion'),
      ...(maps.emissive ? { emissiveTexture: image(maps.emissive, 'glow'), emissiveFactor: [1, 1, 1] } : {}),
    });
    const at = (c: number, u: number, v: number): [number, number] => [u / charts[c].width, v / charts[c].height];
    writer.node({ name, mesh: writer.mesh(name, [primitive(writer, laid(charts, at), material)]) }, root);
  }
  return writer.glb();
}
