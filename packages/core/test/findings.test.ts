import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { fitsPattern } from '../src/decisions/patterns.ts';
import { FINDING_CODES, surveyFindings } from '../src/findings/findings.ts';
import type { SurveyFacts } from '../src/survey/facts.ts';
import { buildModel, type PartSpec, quad, type SlotSpec } from './build.ts';
import { factsOf, type Said } from './facts.ts';

const A: SlotSpec = { name: 'A', baseColor: 'a' };
const whole = (slot = 'A', x = 0): PartSpec => ({ ...quad(x, 0, 1, 1, 0.02, 0.02, 0.96, 0.96), slot });
const model = (parts: PartSpec[], slots: SlotSpec[] = [A], path = 'm.glb') => buildModel(slots, parts, path);
const facts = (said: Record<string, Said> = {}, more: Partial<SurveyFacts> = {}) =>
  factsOf([model([whole()])], said, more);

/** The quad of `whole` as part of a model with one change. */
const changed = (change: Partial<PartSpec>, slots?: SlotSpec[]) => factsOf([model([{ ...whole(), ...change }], slots)]);
const normalMap = (normals: Said['normals']) =>
  factsOf([model([whole()], [{ name: 'A', normal: 'n' }])], { n: { normals } });

/** Two quads in one mesh plane at an angle; corners along the fold shared or not. */
function fold(degrees: number, split: boolean, splitUv: boolean): PartSpec {
  const r = (degrees * Math.PI) / 180;
  const [c, s] = [Math.cos(r), Math.sin(r)];
  const far = [c, 0, -s];
  const positions = [-1, 0, 0, 0, 0, 0, 0, 1, 0, -1, 1, 0, 0, 0, 0, ...far, far[0], 1, far[2], 0, 1, 0];
  const flat = [0, 0, 1];
  const turned = [s, 0, c];
  const mean = [s / 2, 0, (1 + c) / 2];
  const length = Math.hypot(...mean);
  const soft = mean.map((v) => v / length);
  const normals = split
    ? [...flat, ...flat, ...flat, ...flat, ...turned, ...turned, ...turned, ...turned]
    : [...flat, ...soft, ...soft, ...flat, ...soft, ...turned, ...turned, ...soft];
  const gap = splitUv ? 0.1 : 0;
  const uvs = [0.1, 0.6, 0.4, 0.6, 0.4, 0.3, 0.1, 0.3, 0.4 + gap, 0.6, 0.7 + gap, 0.6, 0.7 + gap, 0.3, 0.4 + gap, 0.3];
  return { positions, normals, uvs, indices: [0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7], slot: 'A' };
}

const gaps = (n: number, spread: number): PartSpec => {
  // n quads side by side whose shared corners differ by a small turn of the normal.
  const part: Required<Pick<PartSpec, 'positions' | 'normals' | 'uvs' | 'indices'>> & PartSpec = {
    positions: [],
    normals: [],
    uvs: [],
    indices: [],
    slot: 'A',
  };
  for (let i = 0; i < n; i++) {
    const q = quad(i, 0, 1, 1, i / n, 0.1, 1 / n, 0.5);
    const base = part.positions.length / 3;
    const r = (i * spread * Math.PI) / 180;
    part.positions.push(...q.positions);
    for (let k = 0; k < 4; k++) part.normals.push(Math.sin(r), 0, Math.cos(r));
    part.uvs.push(...q.uvs);
    part.indices.push(...q.indices.map((v) => v + base));
  }
  return part;
};

const grid = (side: number, slot = 'A', x = 0): PartSpec => {
  const positions: number[] = [];
  const uvs: number[] = [];
  const indices: number[] = [];
  for (let j = 0; j <= side; j++)
    for (let i = 0; i <= side; i++) {
      positions.push(x + i / side, j / side, 0);
      uvs.push(i / side, 1 - j / side);
    }
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) {
      const a = j * (side + 1) + i;
      indices.push(a, a + 1, a + side + 2, a, a + side + 2, a + side + 1);
    }
  return { positions, uvs, indices, normals: positions.map((_, k) => Number(k % 3 === 2)), slot };
};

const spread = (part: PartSpec, u: number, v: number, su = 1, sv = 1): PartSpec => ({
  ...part,
  uvs: part.uvs?.map((x, k) => (k % 2 === 0 ? x * su + u : x * sv + v)),
});

const joined = (...parts: PartSpec[]): PartSpec => {
  const out: PartSpec = { positions: [], normals: [], uvs: [], indices: [], slot: parts[0].slot };
  for (const part of parts) {
    const base = out.positions.length / 3;
    out.positions.push(...part.positions);
    out.normals?.push(...(part.normals ?? []));
    out.uvs?.push(...(part.uvs ?? []));
    out.indices?.push(...(part.indices ?? []).map((v) => v + base));
  }
  return out;
};

const clamped = () => {
  const m = model([spread(whole(), 0, 0, 3, 1)]);
  m.document.getRoot().listMaterials()[0].getBaseColorTextureInfo()?.setWrapS(33071);
  m.slots[0].look.baseColor = { ...m.slots[0].look.baseColor, wrapS: 33071 } as never;
  return factsOf([m]);
};

const wantsDensity = (density: number) => ({ budget: { density } });

interface Case {
  code: (typeof FINDING_CODES)[number];
  hit: () => SurveyFacts;
  near: () => SurveyFacts;
  decisions?: object;
  nearDecisions?: object;
}

const TWO: SlotSpec[] = [A, { name: 'B', baseColor: 'b' }];

const CASES: Case[] = [
  {
    code: 'duplicate-textures',
    hit: () =>
      factsOf([model([whole()]), model([whole()], [{ name: 'A', baseColor: 'a2' }], 'n.glb')], {
        a: { key: 'K' },
        a2: { key: 'K' },
      }),
    near: () => factsOf([model([whole()]), model([whole()], [{ name: 'A', baseColor: 'a2' }], 'n.glb')]),
  },
  {
    code: 'near-duplicate-textures',
    hit: () =>
      factsOf(
        [model([whole(), whole('B', 2)], TWO)],
        {},
        { nearDuplicates: [{ a: 'a', b: 'b', ssim: 0.99, mean: 1, worst: 2 }] },
      ),
    near: () => factsOf([model([whole(), whole('B', 2)], TWO)]),
  },
  {
    code: 'duplicate-materials',
    hit: () => factsOf([model([whole(), whole('B', 2)], [A, { name: 'B', baseColor: 'a' }])]),
    near: () => factsOf([model([whole(), whole('B', 2)], [A, { name: 'B', baseColor: 'a', doubleSided: true }])]),
  },
  {
    code: 'factor-materials',
    hit: () => {
      const m = model([whole(), whole('B', 2)], [{ name: 'A' }, { name: 'B' }]);
      m.slots[1].look.baseColorFactor = [0.5, 0, 0, 1];
      return factsOf([m]);
    },
    near: () => {
      const m = model([whole(), whole('B', 2)], TWO);
      m.slots[1].look.baseColorFactor = [0.5, 0, 0, 1];
      return factsOf([m]);
    },
  },
  {
    code: 'flat-texture',
    hit: () => facts({ a: { nearlyFlat: true } }),
    near: () => facts({ a: { max: [0.02, 1, 1, 1] } }),
  },
  {
    code: 'oversized-texture',
    hit: () => facts({ a: { side: 1024, usefulSide: 512 } }),
    near: () => facts({ a: { side: 1024, usefulSide: 600 } }),
  },
  {
    code: 'over-density',
    // 1 m is 0.96 of 1024 px: 983 px/m.
    hit: () => facts({ a: { side: 1024 } }),
    near: () => facts({ a: { side: 1024 } }),
    decisions: wantsDensity(400),
    nearDecisions: wantsDensity(600),
  },
  {
    code: 'low-density',
    hit: () => facts({ a: { side: 256 } }),
    near: () => facts({ a: { side: 256 } }),
    decisions: wantsDensity(600),
    nearDecisions: wantsDensity(400),
  },
  {
    code: 'uneven-sizes',
    hit: () =>
      factsOf([model([whole()], [{ name: 'A', baseColor: 'a', normal: 'n' }])], {
        a: { side: 1024 },
        n: { side: 256 },
      }),
    near: () =>
      factsOf([model([whole()], [{ name: 'A', baseColor: 'a', normal: 'n' }])], {
        a: { side: 1024 },
        n: { side: 512 },
      }),
  },
  {
    code: 'odd-size',
    hit: () => facts({ a: { width: 500, height: 512 } }),
    near: () => facts({ a: { width: 256, height: 512 } }),
  },
  {
    code: 'unused-channel',
    hit: () => facts({ a: { min: [0, 0, 0, 0.5] } }),
    near: () => factsOf([model([whole()], [{ ...A, alphaMode: 'MASK' }])], { a: { min: [0, 0, 0, 0.5] } }),
  },
  {
    code: 'empty-area',
    hit: () => factsOf([model([{ ...quad(0, 0, 1, 1, 0, 0, 0.6, 0.6), slot: 'A' }])]),
    near: () => factsOf([model([{ ...quad(0, 0, 1, 1, 0, 0, 0.8, 0.8), slot: 'A' }])]),
  },
  {
    code: 'encoded-normals',
    hit: () => normalMap({ yUp: 0, middle: [187, 188], crooked: 0.9 }),
    near: () => normalMap({ yUp: 0, middle: [150, 130], crooked: 0 }),
  },
  {
    code: 'no-normals',
    hit: () => normalMap({ yUp: 0, middle: [120, 128], crooked: 0.8 }),
    near: () => normalMap({ yUp: 0, middle: [120, 128], crooked: 0.3 }),
  },
  {
    code: 'normal-y-down',
    hit: () => normalMap({ yUp: -0.8, middle: [128, 128], crooked: 0 }),
    near: () => normalMap({ yUp: -0.2, middle: [128, 128], crooked: 0 }),
  },
  {
    code: 'colour-and-data',
    hit: () => factsOf([model([whole()], [{ name: 'A', baseColor: 'a', occlusion: { image: 'a', uvSet: 0 } }])]),
    near: () => factsOf([model([whole()], [{ name: 'A', baseColor: 'a', occlusion: { image: 'o', uvSet: 0 } }])]),
  },
  {
    code: 'missing-texture',
    hit: () => factsOf([Object.assign(model([whole()]), { missing: ['wall.png'] })]),
    near: () => factsOf([model([whole()])]),
  },
  {
    code: 'unused-texture',
    hit: () => facts({}, { loose: [{ path: 'x.png', to: [], maps: [], reason: 'its name ends like no map' }] }),
    near: () => facts({}, { loose: [{ path: 'a_normal.png', to: ['m: A'], maps: ['normal'], reason: null }] }),
  },
  {
    code: 'mergeable-slots',
    hit: () => factsOf([model([whole(), whole('B', 2)], TWO)]),
    near: () => factsOf([model([whole(), whole('B', 2)], [A, { name: 'B', baseColor: 'b', doubleSided: true }])]),
  },
  {
    code: 'joinable-parts',
    hit: () => factsOf([model([whole(), whole('A', 2)])]),
    near: () => {
      const m = model([whole(), whole('A', 2)]);
      for (const node of m.document.getRoot().listNodes()) node.setExtras({ door: true });
      return factsOf([m]);
    },
  },
  {
    code: 'needless-blending',
    hit: () => factsOf([model([whole()], [{ ...A, alphaMode: 'BLEND' }])]),
    near: () => factsOf([model([whole()], [{ ...A, alphaMode: 'BLEND' }])], { a: { min: [0, 0, 0, 0.9] } }),
  },
  {
    code: 'alpha-blended',
    hit: () => factsOf([model([whole()], [{ ...A, alphaMode: 'BLEND' }])], { a: { min: [0, 0, 0, 0] } }),
    near: () => factsOf([model([whole()], [{ ...A, alphaMode: 'MASK' }])], { a: { min: [0, 0, 0, 0] } }),
  },
  {
    code: 'uneven-tiles',
    hit: () =>
      factsOf([model([joined(whole(), spread({ ...quad(2, 0, 2, 2, 0.02, 0.02, 0.96, 0.96), slot: 'A' }, 1, 0))])]),
    near: () =>
      factsOf([model([joined(whole(), spread({ ...quad(2, 0, 1.1, 1.1, 0.02, 0.02, 0.96, 0.96), slot: 'A' }, 1, 0))])]),
  },
  {
    code: 'stretched-uvs',
    hit: () => factsOf([model([{ ...quad(0, 0, 3, 1, 0, 0, 1, 1), slot: 'A' }])]),
    near: () => factsOf([model([{ ...quad(0, 0, 1.9, 1, 0, 0, 1, 1), slot: 'A' }])]),
  },
  { code: 'unassigned-faces', hit: () => factsOf([model([{ ...whole(), slot: 'nobody' }])]), near: () => facts() },
  {
    code: 'degenerate-faces',
    hit: () => changed({ indices: [0, 1, 2, 0, 2, 3, 0, 0, 1] }),
    near: () => factsOf([model([{ ...quad(0, 0, 1, 0.0001, 0, 0, 1, 1), slot: 'A' }])]),
  },
  {
    code: 'duplicate-faces',
    hit: () => changed({ indices: [0, 1, 2, 0, 2, 3, 2, 1, 0] }),
    near: () => changed({ indices: [0, 1, 2, 0, 2, 3] }),
  },
  {
    code: 'duplicate-mesh',
    hit: () => factsOf([model([whole(), { ...whole(), translation: [3, 0, 0] }])]),
    near: () =>
      factsOf([
        model([whole(), { ...quad(0, 0, 1, 1.001, 0.02, 0.02, 0.96, 0.96), slot: 'A', translation: [3, 0, 0] }]),
      ]),
  },
  {
    code: 'heavy-outlier',
    hit: () => factsOf([model([grid(80), whole('A', 2), whole('A', 4), whole('A', 6), whole('A', 8)])]),
    near: () => factsOf([model([grid(80), grid(80, 'A', 2), grid(80, 'A', 4), grid(80, 'A', 6), grid(80, 'A', 8)])]),
  },
  { code: 'heavy-model', hit: () => factsOf([model([grid(230)])]), near: () => factsOf([model([grid(200)])]) },
  {
    code: 'steep-smooth-edge',
    hit: () => factsOf([model([fold(85, false, false)])]),
    near: () => factsOf([model([fold(70, false, false)])]),
  },
  {
    code: 'unsplit-hard-edge',
    hit: () => factsOf([model([fold(60, true, false)])]),
    near: () => factsOf([model([fold(60, true, true)])]),
  },
  { code: 'needless-splits', hit: () => factsOf([model([gaps(6, 0.5)])]), near: () => factsOf([model([gaps(6, 3)])]) },
  {
    code: 'no-uvs',
    hit: () => changed({ uvs: undefined }),
    near: () => changed({ uvs: undefined }, [{ name: 'A' }]),
  },
  {
    code: 'repeats',
    hit: () => factsOf([model([spread(whole(), 0, 0, 3, 1)])]),
    near: () => factsOf([model([whole()])]),
  },
  { code: 'clamped-repeats', hit: clamped, near: () => factsOf([model([spread(whole(), 0, 0, 3, 1)])]) },
  {
    code: 'shifted-uvs',
    hit: () => factsOf([model([spread(whole(), 0.5, 0)])]),
    near: () => factsOf([model([whole()])]),
  },
  {
    code: 'overlapping-uvs',
    hit: () =>
      factsOf([
        model([
          joined(
            { ...quad(0, 0, 1, 1, 0, 0, 0.6, 0.6), slot: 'A' },
            { ...quad(2, 0, 1, 1, 0.3, 0.3, 0.6, 0.6), slot: 'A' },
          ),
        ]),
      ]),
    near: () =>
      factsOf([
        model([
          joined(
            { ...quad(0, 0, 1, 1, 0, 0, 0.5, 0.5), slot: 'A' },
            { ...quad(2, 0, 1, 1, 0.5, 0.5, 0.5, 0.5), slot: 'A' },
          ),
        ]),
      ]),
  },
  {
    code: 'stacked-uvs',
    hit: () => factsOf([model([joined(whole(), whole('A', 2))])]),
    near: () => factsOf([model([whole()])]),
  },
  {
    code: 'mirrored-uvs',
    hit: () => factsOf([model([joined(whole(), spread(whole('A', 2), 1, 0, -1, 1))])]),
    near: () => factsOf([model([joined(whole(), whole('A', 2))])]),
  },
  {
    code: 'uv-tiles',
    hit: () => factsOf([model([joined(whole(), spread(whole('A', 2), 1, 0))])]),
    near: () => factsOf([model([joined(whole(), spread(whole('A', 2), 0.5, 0))])]),
  },
  {
    code: 'name-clash',
    hit: () => factsOf([model([whole()], [A], 'one/Sign.glb'), model([whole()], [A], 'two/sign.glb')]),
    near: () => factsOf([model([whole()], [A], 'one/sign.glb'), model([whole()], [A], 'two/sign 2.glb')]),
  },
  {
    code: 'required-names',
    hit: () => factsOf([model([whole()])]),
    near: () => factsOf([model([whole('Body_01')], [{ name: 'Body_01', baseColor: 'a' }])]),
    decisions: { requiredNames: ['Body_*'] },
  },
  {
    code: 'not-read',
    hit: () => facts({}, { errors: [{ path: 'x.glb', message: 'is cut short' }] }),
    near: () => facts(),
  },
  {
    code: 'odd-scale',
    hit: () => {
      const surveyFacts = facts();
      surveyFacts.models[0].span = 4000;
      return surveyFacts;
    },
    near: () => {
      const surveyFacts = facts();
      surveyFacts.models[0].span = 300;
      return surveyFacts;
    },
  },
];

describe('every finding has what triggers it and what nearly does', () => {
  test('no code is without a case', () => {
    expect(CASES.map((c) => c.code).sort()).toEqual([...FINDING_CODES].sort());
  });

  test.each(CASES)('$code', ({ code, hit, near, decisions = {}, nearDecisions = decisions }) => {
    const found = surveyFindings(hit(), MergeDecisions.parse(decisions)).filter((finding) => finding.code === code);
    expect(found.length).toBeGreaterThan(0);
    for (const finding of found) {
      expect(finding.message.length).toBeGreaterThan(10);
      expect(finding.subject).not.toBe('');
    }
    expect(surveyFindings(near(), MergeDecisions.parse(nearDecisions)).map((finding) => finding.code)).not.toContain(
      code,
    );
  });
});

test('every code is documented', () => {
  const page = readFileSync(new URL('../../../docs/findings.md', import.meta.url), 'utf8');
  for (const code of FINDING_CODES) expect(page, code).toContain(`\`${code}\``);
});

test('the largest saving comes first, faults before all', () => {
  const m = model([whole(), whole('B', 2)], TWO);
  const list = surveyFindings(
    factsOf(
      [m],
      { a: { side: 1024, usefulSide: 64 }, b: { nearlyFlat: true } },
      { errors: [{ path: 'x', message: 'bad' }] },
    ),
    MergeDecisions.parse({}),
  );
  expect(list[0].code).toBe('not-read');
  expect(list[1].saves.drawCalls).toBe(1);
  const bytes = list.map((finding) => finding.saves.bytes ?? 0).slice(2);
  expect(bytes).toEqual([...bytes].sort((a, b) => b - a));
});

test('forty copies of one texture: what sharing saves is the memory of thirty-nine', () => {
  const models = Array.from({ length: 40 }, (_, i) =>
    model([whole()], [{ name: 'A', baseColor: `p${i}` }], `${i}.glb`),
  );
  const said = Object.fromEntries(Array.from({ length: 40 }, (_, i) => [`p${i}`, { key: 'P' }]));
  const facts40 = factsOf(models, said);
  const [duplicates] = surveyFindings(facts40, MergeDecisions.parse({})).filter(
    (finding) => finding.code === 'duplicate-textures',
  );
  expect(duplicates.saves.bytes).toBe(39 * facts40.pictures[0].bytes.bc7);
  expect(facts40.pictures[0].places.map((place) => place.model)).toEqual(models.map((_, i) => i));
  expect(duplicates.action).toMatchObject({ do: 'repair', repairs: { shareDuplicates: true } });
});

test('a pattern of a required name is no regular expression', () => {
  expect(fitsPattern('Body_01', 'Body_*')).toBe(true);
  expect(fitsPattern('Body.01', 'Body.01')).toBe(true);
  expect(fitsPattern('BodyX01', 'Body.01')).toBe(false);
  expect(fitsPattern('aBody_01', 'Body_*')).toBe(false);
});

test('high-polys are not told what only models that are drawn need, whether pairings or names say so; faults of theirs stay', () => {
  const bare = (slot = 'A'): PartSpec => ({ ...grid(6), uvs: undefined, slot });
  /** Facts of a model whose objects are called so. */
  const called = (names: string[], parts: PartSpec[]) => {
    const facts = factsOf([model(parts)]);
    names.forEach((name, i) => {
      facts.models[0].bodies[i] = { ...facts.models[0].bodies[i], name };
    });
    return facts;
  };
  const codes = (facts: ReturnType<typeof called>, decisions: object = {}) =>
    surveyFindings(facts, MergeDecisions.parse(decisions)).map((finding) => finding.code);
  const post = called(['post'], [bare()]);
  expect(codes(post)).toContain('no-uvs');
  expect(codes(called(['post_high'], [bare()]))).not.toContain('no-uvs');
  const pairings = [{ name: 'p', high: [{ path: post.models[0].path, name: 'post' }], low: [] }];
  expect(codes(post, { rays: { pairings } })).not.toContain('no-uvs');
  // One of two objects that is drawn is enough.
  expect(codes(called(['post_high', 'post_low'], [bare(), bare('B')]))).toContain('no-uvs');
  const broken = { ...bare(), indices: [...(bare().indices ?? []), 0, 0, 1] };
  expect(codes(called(['post_high'], [broken]))).toContain('degenerate-faces');
});

test('many files that cannot be read are one line with a count', () => {
  const errors = Array.from({ length: 42 }, (_, i) => ({
    path: `a${i}.glb`,
    message: i < 40 ? 'cut short' : 'no JSON',
  }));
  const of = (list: typeof errors) =>
    surveyFindings({ ...factsOf([model([grid(2)])]), errors: list } as never, MergeDecisions.parse({})).filter(
      (finding) => finding.code === 'not-read',
    );
  const [one, ...more] = of(errors);
  expect(more).toEqual([]);
  expect(one.message).toBe('42 files could not be read: 40 as a0.glb: cut short; 2 as a40.glb: no JSON');
  expect(of(errors.slice(0, 2)).map((finding) => finding.message)).toEqual(['a0.glb: cut short', 'a1.glb: cut short']);
});

test('a finding without an action says why', () => {
  const facts = factsOf([model([grid(2)])]);
  facts.models[0] = { ...facts.models[0], unused: ['spare'] };
  const idle = surveyFindings(facts, MergeDecisions.parse({})).filter((finding) => finding.action === null);
  expect(idle.map((finding) => finding.why)).toEqual(['it is left out of what is handed over']);
});
