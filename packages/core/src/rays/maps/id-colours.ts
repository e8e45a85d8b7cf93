import type { RaySettings } from '../../decisions/ray-decisions.ts';
import { type Lab, labToLinear, toLab } from '../../image/oklab.ts';
import { encodeByte } from '../../image/srgb.ts';
import { hashText } from '../../math/hash.ts';
import { piecesOf } from '../pairing/measure.ts';
import type { RayMesh } from '../target/ray-mesh.ts';
import type { GroupIds } from './group-ids.ts';

/** OKLab distance at which two colours are told apart at a glance, and by programs that gather near colours. */
const APART = 0.12;
const CHROMA = 0.13;
const LIGHTNESS = [0.7, 0.5, 0.86, 0.36];
const HUES = 36;

interface IdColour {
  lightness: number;
  /** Hue, 0 … 1. */
  turn: number;
}

/** Every colour that is tried where the one that a name asks for is too near to others. */
const CANDIDATES: readonly IdColour[] = LIGHTNESS.flatMap((lightness) =>
  Array.from({ length: HUES }, (_, i) => ({ lightness, turn: i / HUES })),
);

/**
 * Colours for names, R + 256 G + 65536 B, told apart as far as there is room. A name asks for a hue of its own, so that it keeps its colour from run to run;
 * where that is too near to one that is taken, it gets the free colour that is farthest from all of them in OKLab.
 */
export function idColours(names: readonly string[]): Map<string, number> {
  const out = new Map<string, number>();
  const taken: IdColour[] = [];
  const bytes = new Set<number>();
  for (const name of [...new Set(names)].sort()) {
    const wanted = { lightness: LIGHTNESS[0], turn: (hashText(name) % 360) / 360 };
    // Where there are more names than colours, being different has to do.
    const full = taken.length >= CANDIDATES.length;
    const colour = full || nearest(wanted, taken) >= APART ? wanted : farthest(taken);
    let code = codeOf(colour);
    for (let k = 1; bytes.has(code); k++) code = codeOf(between(wanted, k));
    taken.push(colour);
    bytes.add(code);
    out.set(name, code);
  }
  return out;
}

/** What a colour is meant to be in OKLab; where sRGB does not reach, it is less. */
const meant = ({ lightness, turn }: IdColour): Lab => [
  lightness,
  CHROMA * Math.cos(2 * Math.PI * turn),
  CHROMA * Math.sin(2 * Math.PI * turn),
];

/** What its bytes are in OKLab. */
function lab(colour: IdColour): Lab {
  const code = codeOf(colour);
  return toLab([(code & 255) / 255, ((code >> 8) & 255) / 255, (code >> 16) / 255]);
}

const known = new WeakMap<IdColour, Lab>();

/** The same, kept: each is compared with all others. */
function labOf(colour: IdColour): Lab {
  const there = known.get(colour) ?? lab(colour);
  known.set(colour, there);
  return there;
}

/** OKLab distance to the nearest of some colours. */
function nearest(colour: IdColour, others: readonly IdColour[]): number {
  const own = labOf(colour);
  return Math.min(
    Number.POSITIVE_INFINITY,
    ...others.map((other) => Math.hypot(...labOf(other).map((v, k) => v - own[k]))),
  );
}

/** The candidate that is farthest from what is taken; the first of equals. */
function farthest(taken: readonly IdColour[]): IdColour {
  let [best, most] = [CANDIDATES[0], -1];
  for (const candidate of CANDIDATES) {
    const distance = nearest(candidate, taken);
    if (distance > most + 1e-9) [best, most] = [candidate, distance];
  }
  return best;
}

/** Further colours, where all candidates are taken. */
const between = ({ turn }: IdColour, k: number): IdColour => ({
  lightness: 0.36 + ((0.34 + 0.11 * k) % 0.5),
  turn: (turn + 0.381966011 * k) % 1,
});

/** sRGB bytes, R + 256 G + 65536 B. */
function codeOf(colour: IdColour): number {
  const [red, green, blue] = labToLinear(meant(colour)).map(encodeByte);
  return red | (green << 8) | (blue << 16);
}

/** What faces in no group are called. */
const NO_GROUP = 'in no group';

/** Name of each triangle's ID, by number into `names`. */
function namesOf(
  mesh: RayMesh,
  by: RaySettings['id']['by'],
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
  by: RaySettings['id']['by'],
  groups: GroupIds | null = null,
): { ids: (Uint32Array | null)[]; legend: { name: string; colour: number }[] } {
  if (by === 'island' || by === 'vertex-color') return { ids: meshes.map(() => null), legend: [] };
  if (by === 'own-colour') return ownColours(meshes);
  const tables = meshes.map((mesh, i) => {
    const names = namesOf(mesh, by, groups);
    return by === 'piece' ? { ...names, names: names.names.map((name) => `${i} ${name}`) } : names;
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

/** IDs in the colours that the materials have themselves (their base colour factors): materials of one colour are one. */
function ownColours(meshes: readonly RayMesh[]): ReturnType<typeof idsOf> {
  const legend = new Map<string, { name: string; colour: number }>();
  const ids = meshes.map((mesh) => {
    const bySource = mesh.sources.map(({ slot, look }) => {
      const [red, green, blue] = look.baseColorFactor.slice(0, 3).map(encodeByte);
      const colour = red | (green << 8) | (blue << 16);
      legend.set(`${slot} ${colour}`, { name: slot, colour });
      return colour;
    });
    const out = new Uint32Array(new SharedArrayBuffer(mesh.triangles * 4));
    for (let t = 0; t < mesh.triangles; t++) out[t] = bySource[mesh.sourceOf[t]];
    return out;
  });
  return { ids, legend: [...legend.values()] };
}
