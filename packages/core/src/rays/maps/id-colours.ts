import type { RayRecipe } from '../../decisions/ray-decisions.ts';
import { labToLinear } from '../../image/oklab.ts';
import { encodeByte } from '../../image/srgb.ts';
import { hashText } from '../../math/hash.ts';
import { piecesOf } from '../pairing/measure.ts';
import type { RayMesh } from '../target/ray-mesh.ts';
import type { GroupIds } from './group-ids.ts';

/**
 * Colours of equal lightness and chroma, R + 256 G + 65536 B: hues are tried in steps of the golden angle from one that the name decides, so that a name
 * keeps its colour from run to run, until the colour is free.
 */
export function idColours(names: readonly string[]): Map<string, number> {
  const out = new Map<string, number>();
  const taken = new Set<number>();
  for (const name of [...new Set(names)].sort()) {
    let turn = (hashText(name) % 360) / 360;
    let lightness = 0.7;
    for (;;) {
      const c = colourOf(lightness, 0.13, turn);
      if (!taken.has(c)) {
        taken.add(c);
        out.set(name, c);
        break;
      }
      turn = (turn + 0.381966011) % 1;
      if (taken.size > 64) lightness = 0.45 + ((lightness + 0.11) % 0.4);
    }
  }
  return out;
}

/** OKLCH to sRGB bytes, R + 256 G + 65536 B. @param turn hue, 0 … 1 */
function colourOf(lightness: number, chroma: number, turn: number): number {
  const lab = [lightness, chroma * Math.cos(2 * Math.PI * turn), chroma * Math.sin(2 * Math.PI * turn)] as const;
  const [red, green, blue] = labToLinear(lab).map(encodeByte);
  return red | (green << 8) | (blue << 16);
}

/** What faces in no group are called. */
const NO_GROUP = 'in no group';

/** Name of each triangle's ID, by number into `names`. */
function namesOf(
  mesh: RayMesh,
  by: RayRecipe['id']['by'],
  groups: GroupIds | null,
): { names: string[]; of: (t: number) => number } {
  if (by === 'piece') {
    const pieces = piecesOf(mesh);
    return { names: Array.from({ length: pieces.count }, (_, i) => `piece ${i}`), of: (t) => pieces.of[t] };
  }
  if (by === 'group') {
    const names = [...(groups?.names ?? []), NO_GROUP];
    const tables = mesh.sources.map((source) => groups?.ofFile.get(source.path)?.[source.part]);
    return {
      names,
      of: (t) => {
        const s = mesh.sourceOf[t];
        const g = tables[s]?.[t - mesh.sources[s].from] ?? -1;
        return g < 0 ? names.length - 1 : g;
      },
    };
  }
  return {
    names: mesh.sources.map((source) => (by === 'part' ? source.object : source.slot)),
    of: (t) => mesh.sourceOf[t],
  };
}

/**
 * Colour of each triangle of the high-polys, by mesh; null when the colour is not the triangle's (islands, vertex colours). All meshes share one list, so that a
 * material has one colour wherever it is.
 */
export function idsOf(
  meshes: readonly RayMesh[],
  by: RayRecipe['id']['by'],
  groups: GroupIds | null = null,
): { ids: (Uint32Array | null)[]; legend: { name: string; colour: number }[] } {
  if (by === 'island' || by === 'vertex-color') return { ids: meshes.map(() => null), legend: [] };
  const tables = meshes.map((mesh, i) => {
    const t = namesOf(mesh, by, groups);
    return by === 'piece' ? { ...t, names: t.names.map((name) => `${i} ${name}`) } : t;
  });
  const colours = idColours(tables.flatMap((table) => table.names));
  return {
    ids: meshes.map((mesh, i) => {
      const out = new Uint32Array(new SharedArrayBuffer(mesh.triangles * 4));
      const byName = tables[i].names.map((name) => colours.get(name) as number);
      for (let t = 0; t < mesh.triangles; t++) out[t] = byName[tables[i].of(t)];
      return out;
    }),
    legend: [...colours].map(([name, colour]) => ({ name, colour })),
  };
}
