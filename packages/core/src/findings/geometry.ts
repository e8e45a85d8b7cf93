import type { SurveyFacts } from '../survey/facts.ts';
import type { PartFacts } from '../survey/slot-facts.ts';
import { type Finding, few } from './finding.ts';
import { groupBy } from './group-by.ts';

interface Placed {
  model: number;
  slot: number;
  part: PartFacts;
}

const placed = (facts: SurveyFacts): Placed[] =>
  facts.slots.flatMap((slot, i) => slot.parts.map((part) => ({ model: slot.model, slot: i, part })));

/** One finding a model for something counted on its parts. */
function byModel(
  facts: SurveyFacts,
  counted: (partFacts: PartFacts) => number,
  make: (model: number, n: number, parts: Placed[]) => Omit<Finding, 'objects'>,
): Finding[] {
  const hit = placed(facts).filter((placed) => counted(placed.part) > 0);
  return [...groupBy(hit, (placed) => placed.model)].map(([model, parts]) => ({
    ...make(
      model,
      parts.reduce((sum, part) => sum + counted(part.part), 0),
      parts,
    ),
    objects: {
      models: [model],
      slots: [...new Set(parts.map((part) => part.slot))],
      parts: parts.map((part): [number, number] => [model, part.part.part]),
    },
  }));
}

const names = (parts: Placed[]) => few([...new Set(parts.map((part) => part.part.name))]);

/** Faces that should not be there, or that nobody gave a material. */
export function oddFaces(facts: SurveyFacts): Finding[] {
  const drop = { do: 'repair', label: 'Leave them out', repairs: { dropFaces: true } } as const;
  return [
    ...byModel(
      facts,
      (facts) => (facts.assigned ? 0 : facts.own),
      (m, n, parts) => ({
        code: 'unassigned-faces',
        severity: 'warning',
        subject: facts.models[m].path,
        message: `${n} faces of ${facts.models[m].path} have no material (${names(parts)})`,
        saves: {},
        action: { do: 'go', label: 'See them', to: 'files' },
      }),
    ),
    ...byModel(
      facts,
      (facts) => facts.degenerate,
      (m, n, parts) => ({
        code: 'degenerate-faces',
        severity: 'info',
        subject: facts.models[m].path,
        message: `${n} faces of ${facts.models[m].path} have no area (${names(parts)})`,
        saves: { triangles: n },
        action: drop,
      }),
    ),
    ...byModel(
      facts,
      (facts) => facts.duplicate,
      (m, n, parts) => ({
        code: 'duplicate-faces',
        severity: 'warning',
        subject: facts.models[m].path,
        message: `${n} faces of ${facts.models[m].path} lie on others with the same corners (${names(parts)}): they flicker`,
        saves: { triangles: n },
        action: drop,
      }),
    ),
  ];
}

/** Normals that look wrong, or split vertices for nothing. */
export function oddNormals(facts: SurveyFacts): Finding[] {
  const slotNames = (parts: Placed[]) => [...new Set(parts.map((part) => facts.slots[part.slot].name))];
  return [
    ...byModel(
      facts,
      (facts) => facts.steepSmooth,
      (m, n, parts) => ({
        code: 'steep-smooth-edge',
        severity: 'info',
        subject: facts.models[m].path,
        message: `${n} edges of ${facts.models[m].path} turn 80° or more under one smooth normal (${names(parts)})`,
        saves: {},
        action: { do: 'repair', label: 'Harden at UV borders', repairs: { harden: slotNames(parts) } },
      }),
    ),
    ...byModel(
      facts,
      (facts) => facts.unsplitHard,
      (m, n, parts) => ({
        code: 'unsplit-hard-edge',
        severity: 'info',
        subject: facts.models[m].path,
        message: `${n} hard edges of ${facts.models[m].path} are not split in the UVs (${names(parts)}): a normal bake shows them`,
        saves: {},
        action: { do: 'repair', label: 'Harden at UV borders', repairs: { harden: slotNames(parts) } },
      }),
    ),
    ...byModel(
      facts,
      (facts) => (facts.needless > facts.gpuVertices * 0.01 ? facts.needless : 0),
      (m, n, parts) => ({
        code: 'needless-splits',
        severity: 'info',
        subject: facts.models[m].path,
        message: `${n} vertices of ${facts.models[m].path} differ from others only by a normal turned less than 1° (${names(parts)})`,
        saves: { vertices: n },
        action: { do: 'repair', label: 'Weld them', repairs: { weldNormals: true } },
      }),
    ),
  ];
}

/** One mesh stored again under another name. */
export function duplicateMeshes(facts: SurveyFacts): Finding[] {
  const meshes = [...groupBy(placed(facts), (placed) => `${placed.model} ${placed.part.mesh}`).values()].map(
    (parts) => ({
      model: parts[0].model,
      mesh: parts[0].part.mesh,
      parts,
      content: parts
        .sort((a, b) => a.part.part - b.part.part)
        .map((part) => `${part.part.content} ${facts.slots[part.slot].look}`)
        .join('|'),
    }),
  );
  return [...groupBy(meshes, (mesh) => mesh.content).values()].flatMap((group): Finding[] => {
    if (group.length < 2) return [];
    const inOne = groupBy(group, (mesh) => mesh.model);
    const sameFile = [...inOne.values()].some((mesh) => mesh.length > 1);
    const called = group.map((mesh) => facts.models[mesh.model].meshes[mesh.mesh] ?? `mesh ${mesh.mesh}`);
    const vertices = (group.length - 1) * group[0].parts.reduce((sum, part) => sum + part.part.gpuVertices, 0);
    return [
      {
        code: 'duplicate-mesh',
        severity: 'warning',
        subject: called[0],
        message: `${group.length} meshes have the same contents: ${few([...new Set(called)].length > 1 ? called : group.map((mesh) => facts.models[mesh.model].path))}`,
        saves: { vertices },
        objects: {
          models: [...inOne.keys()],
          slots: [...new Set(group.flatMap((mesh) => mesh.parts.map((part) => part.slot)))],
          parts: group.flatMap((mesh) => mesh.parts.map((part): [number, number] => [part.model, part.part.part])),
        },
        action: sameFile
          ? { do: 'repair', label: 'Make instances', repairs: { makeInstances: true } }
          : { do: 'go', label: 'Take the copies out', to: 'files' },
      },
    ];
  });
}

/** Triangles of one copy from which on a model is heavy by itself: on a screen 1080 px high it hardly has room for as many px. */
const HEAVY = 100_000;

/** Models that are far heavier than anybody can see, for each of which a stand-in can be made. */
export function heavyModels({ models }: SurveyFacts): Finding[] {
  return models.flatMap(({ path, span, parts }, model): Finding[] => {
    const triangles = parts.reduce((sum, part) => sum + part.faces, 0);
    if (triangles < HEAVY) return [];
    const kept = Math.round(triangles / 10_000) * 1000;
    return [
      {
        code: 'heavy-model',
        severity: 'info',
        subject: path,
        message: `${path} has ${triangles} triangles for ${Number(span.toPrecision(2))} m`,
        saves: { triangles: triangles - kept },
        objects: { models: [model] },
        action: { do: 'go', label: 'Make a stand-in', to: 'stand-in', model },
      },
    ];
  });
}

/**
 * A part that is drawn with a large share of all triangles, far beyond what is usual here. Reduced, it draws what the budget leaves it beside
 * all else, or, without a budget, no more than all else together.
 * @param limit triangles of the budget
 */
export function heavyOutliers(facts: SurveyFacts, limit: number | null): Finding[] {
  const all = placed(facts);
  const drawn = all.map((placed) => placed.part.triangles).sort((a, b) => a - b);
  if (drawn.length < 4) return [];
  const total = drawn.reduce((sum, b) => sum + b, 0);
  const median = Math.max(1, drawn[drawn.length >> 1]);
  return all.flatMap((placed): Finding[] => {
    const { triangles, own, copies, name } = placed.part;
    if (triangles < 10_000 || triangles < 20 * median || triangles < 0.2 * total) return [];
    const rest = total - triangles;
    const room = limit !== null && limit > rest ? limit - rest : rest;
    const to = Math.min(own - 1, Math.max(100, Math.floor(room / copies)));
    return [
      {
        code: 'heavy-outlier',
        severity: 'warning',
        subject: name,
        message: `"${name}" of ${facts.models[placed.model].path} draws ${own} triangles${copies > 1 ? ` × ${copies} copies` : ''}: ${Math.round((100 * triangles) / total)} % of all`,
        saves: { triangles: (own - to) * copies },
        objects: { models: [placed.model], slots: [placed.slot], parts: [[placed.model, placed.part.part]] },
        action: { do: 'repair', label: `Reduce it to ${to} triangles`, repairs: { reduce: { [name]: to } } },
      },
    ];
  });
}
