import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MergeDecisions, planOf } from '../src/decisions/decisions.ts';
import { planFileOf, withPlanFile } from '../src/decisions/plan-file.ts';
import { PlannedSurface } from '../src/decisions/planned-surface.ts';
import { routesFrom, routeTo } from '../src/decisions/routes.ts';
import { APART, fitsRule, type RuleCondition, routeOf } from '../src/decisions/rules.ts';
import { fitReserve, mapSides, plainSheet, type SheetKind, sheetSides } from '../src/decisions/sheets.ts';
import { scaleLimit, sharpnessOf, sizeAt, usefulShareOf } from '../src/layout/sharpness.ts';
import { pack } from '../src/pack/pack.ts';
import { type AssignableSlot, assign, cutAxes, refusal } from '../src/plan/assign.ts';
import { plannedName, plannedSlots, withPlannedRoutes } from '../src/predict/planned.ts';
import { predict } from '../src/predict/predict.ts';
import { takeProposal } from '../src/predict/propose/take.ts';
import { densityAt, densityProfile, PROFILE_PIECES, sortedDensities } from '../src/survey/density.ts';
import { slotFacts } from '../src/survey/slot-facts.ts';
import { buildModel, type PartSpec, quad, type SlotSpec, sizesOf } from './build.ts';
import { runs } from './sampling.ts';

const slot = (more: Partial<AssignableSlot> = {}): AssignableSlot => ({
  name: 'Wood',
  model: 'props/crate.glb',
  objects: [['Yard', 'Crate']],
  pictures: ['aaaaaaaa'],
  flat: false,
  repeats: 1,
  alphaMode: 'OPAQUE',
  uncut: 'it does not repeat',
  classKey: '["OPAQUE",0,false,false]',
  obstacle: null,
  unfit: { palette: 'it has pictures' },
  look: 'wood',
  textures: [],
  drawn: {
    model: 0,
    slot: 0,
    classKey: '["OPAQUE",0,false,false]',
    maps: { normal: false, emissive: false },
    constant: { orm: null, emissive: null },
    parts: [],
  },
  ...more,
});
const decide = (more: object = {}) => MergeDecisions.parse({ mergeAll: true, ...more });
const two = [plainSheet('a', 'a', 256, 4), plainSheet('b', 'b', 256, 4)];

describe('along which axes a slot is cut', () => {
  const brick = {
    name: 'Brick',
    repeats: 6,
    uncut: null,
    unfit: { trim: 'it repeats up and down', tile: 'it reaches over' },
  };
  const plan = decide({ cutRepeats: ['Brick'] });
  const cases: [string, SheetKind, Partial<AssignableSlot>, ReturnType<typeof cutAxes>][] = [
    ['in a cell of an atlas both', 'atlas', {}, 'both'],
    ['in a cell of a tile sheet both', 'tile', {}, 'both'],
    ['on a strip along V, which a strip does not repeat', 'trim', {}, 'v'],
    ['on a strip that it fits on uncut, none', 'trim', { unfit: { tile: 'it reaches over' } }, null],
    [
      'what cannot be cut, none',
      'trim',
      { uncut: 'its faces reach beyond a texture that does not repeat there' },
      null,
    ],
    ['what is not to be cut, none', 'atlas', { name: 'Wood' }, null],
  ];
  for (const [what, kind, more, axes] of cases)
    test(what, () => {
      const assignableSlot = slot({ ...brick, ...more });
      expect(cutAxes(assignableSlot, kind, plan)).toBe(axes);
      const refused =
        axes === null &&
        (kind === 'atlas' ? assignableSlot.repeats > plan.maxRepeats : assignableSlot.unfit[kind] !== undefined);
      expect(refusal(assignableSlot, kind, plan) !== null).toBe(refused);
    });
});

describe('rules', () => {
  const cases: [RuleCondition, Partial<AssignableSlot>, Partial<AssignableSlot>][] = [
    [{ kind: 'name', pattern: 'Wood*' }, { name: 'Wood_01' }, { name: 'DarkWood' }],
    [{ kind: 'model', pattern: 'props/*' }, { model: 'props/a.glb' }, { model: 'signs/a.glb' }],
    [{ kind: 'object', pattern: 'Cra*' }, {}, { objects: [['Yard', 'Crate'], ['Yard']] }],
    [{ kind: 'object', pattern: 'crate/Yard' }, {}, { model: 'props/barrel.glb' }],
    [{ kind: 'picture', picture: 'aaaaaaaa' }, {}, { pictures: ['bbbbbbbb'] }],
    [{ kind: 'flat' }, { flat: true }, {}],
    [{ kind: 'repeats' }, { repeats: 1.5 }, { repeats: 1 }],
    [{ kind: 'alpha' }, { alphaMode: 'MASK' }, {}],
  ];
  for (const [when, hit, near] of cases)
    test(`${when.kind}: one that fits and a near miss`, () => {
      expect(fitsRule(when, slot(hit))).toBe(true);
      expect(fitsRule(when, slot(near))).toBe(false);
    });

  test('a route by name goes before any rule, an earlier rule before a later one', () => {
    const rules = [
      { id: '1', when: { kind: 'name' as const, pattern: 'W*' }, to: 'a' },
      { id: '2', when: { kind: 'name' as const, pattern: '*' }, to: 'b' },
    ];
    expect(routeOf({ routes: [], rules }, slot())).toMatchObject({ to: 'a', by: 'rule' });
    expect(routeOf({ routes: [], rules }, slot({ name: 'Iron' }))).toMatchObject({ to: 'b' });
    expect(routeOf({ routes: routesFrom({ Wood: 'b' }), rules }, slot())).toEqual({ to: 'b', by: 'hand' });
    expect(routeOf({ routes: [], rules: [] }, slot({ name: 'constructor' }))).toBeNull();
  });

  test('a rule that leads nowhere is refused', () => {
    const rule = { id: '1', when: { kind: 'flat' }, to: 'z' };
    expect(MergeDecisions.safeParse({ rules: [rule] }).error?.issues[0].path).toEqual(['rules', 0, 'to']);
    expect(MergeDecisions.safeParse({ rules: [{ ...rule, to: APART }] }).success).toBe(true);
  });
});

describe('kinds of sheets', () => {
  const palette = { ...plainSheet('p', 'p', 64, 0), kind: 'palette' as const };
  test('one colour goes to a palette by itself where there is one, pictures never do', () => {
    const decisions = decide({ sheets: [palette, two[0]] });
    const [flat, wood] = assign([slot({ flat: true, unfit: {} }), slot()], decisions);
    expect(flat).toMatchObject({ spread: true, allowed: [0] });
    expect(wood).toMatchObject({ spread: true, allowed: [1] });
    const sent = assign([slot(), slot()], { ...decisions, routes: routesFrom({ Wood: 'p' }) });
    expect(sent[0]).toMatchObject({ code: 'kind', reason: expect.stringContaining('a palette does not hold') });
    expect(assign([slot(), slot()], decide({ sheets: [palette] }))[0].code).toBe('kind');
  });
  test('repeats are baked in beyond the limit where the slot is named', () => {
    const many = [slot({ repeats: 9 }), slot({ name: 'Other' })];
    expect(assign(many, decide())[0].code).toBe('repeats');
    expect(assign(many, decide({ bakeRepeats: ['Wood'] }))[0].code).toBeUndefined();
  });
});

describe('sheets', () => {
  test('sizes of maps', () => {
    const s = { ...plainSheet('a', 'a', 1024, 4), height: 512 };
    expect(sheetSides(s)).toEqual([1024, 512]);
    expect(mapSides({ ...s, maps: { ...s.maps, orm: 2 as const } }, 'orm')).toEqual([512, 256]);
    expect(mapSides({ ...s, maps: { ...s.maps, normal: 'off' as const } }, 'normal')).toBeNull();
  });
  test('a reserve is moved and cut onto its sheet; one that is not on it is refused', () => {
    fc.assert(
      fc.property(
        fc.nat(2000),
        fc.nat(2000),
        fc.integer({ min: 1, max: 2000 }),
        fc.integer({ min: 1, max: 2000 }),
        (x, y, width, height) => {
          const r = fitReserve({ id: '1', x, y, width, height, note: '' }, 512, 256);
          expect(
            r.x + r.width <= 512 && r.y + r.height <= 256 && r.x >= 0 && r.y >= 0 && r.width >= 1 && r.height >= 1,
          ).toBe(true);
          if (x + width <= 512 && y + height <= 256) expect(r).toEqual({ id: '1', x, y, width, height, note: '' });
        },
      ),
    );
    const off = {
      ...plainSheet('a', 'a', 64, 4),
      reserves: [{ id: '1', x: 60, y: 0, width: 10, height: 10, note: '' }],
    };
    expect(MergeDecisions.safeParse({ sheets: [off] }).success).toBe(false);
  });
  test('packing leaves reserves free and fills what is left, whatever they are', () => {
    const square = (s: number) => Float64Array.of(0, 0, s, 0, s, s, 0, 0, s, s, 0, s);
    fc.assert(
      fc.property(
        fc.array(
          fc.record({
            x: fc.nat(200),
            y: fc.nat(100),
            width: fc.integer({ min: 1, max: 60 }),
            height: fc.integer({ min: 1, max: 60 }),
          }),
          { maxLength: 4 },
        ),
        fc.array(fc.integer({ min: 4, max: 40 }), { minLength: 1, maxLength: 12 }),
        (reserves, sides) => {
          const kept = reserves.map((reserve) => fitReserve({ id: '1', note: '', ...reserve }, 256, 128));
          const items = sides.map((side) => ({ shape: square(side), factor: 1, mayTurn: true }));
          const result = pack(items, {
            width: 256,
            height: 128,
            margin: 2,
            reserves: kept,
            rotate: 'quarter',
            maxScale: 1,
            effort: 1,
            seed: 1,
          });
          result.placements.forEach((placement, i) => {
            const s = sides[i] * result.scale;
            for (const k of kept)
              expect(
                placement.x + s > k.x + 1e-9 &&
                  placement.x < k.x + k.width &&
                  placement.y + s > k.y + 1e-9 &&
                  placement.y < k.y + k.height,
              ).toBe(false);
            expect(placement.x + s).toBeLessThanOrEqual(256);
            expect(placement.y + s).toBeLessThanOrEqual(128);
          });
        },
      ),
      { numRuns: runs(60) },
    );
  });
});

describe('sharpness', () => {
  test('by detail a picture gets what it resolves and no more; importance counts where room is short', () => {
    const picture = (side: number, usefulSide: number, flat = false) => ({
      width: side,
      height: side / 2,
      flat,
      usefulSide,
    });
    expect(usefulShareOf([picture(64, 16), picture(64, 32)])).toBe(0.5);
    // A flat one beside them says nothing, however large.
    expect(usefulShareOf([picture(64, 64), picture(256, 4, true)])).toBe(1);
    expect(usefulShareOf([picture(256, 4, true)])).toBe(1);
    const coarse = sharpnessOf('detail', 1, 0.25);
    expect([sizeAt(coarse, 1), sizeAt(coarse, 0.5), sizeAt(coarse, 4)]).toEqual([0.25, 0.125, 0.25]);
    const [plain, dear] = [sharpnessOf('relative', 1, 0.25), sharpnessOf('relative', 2, 0.25)];
    expect([sizeAt(plain, 0.25), sizeAt(dear, 0.25), sizeAt(dear, 0.5), sizeAt(dear, 1)]).toEqual([0.25, 0.5, 1, 1]);
    expect(scaleLimit([plain, dear])).toBe(1);
    expect(scaleLimit([sharpnessOf('relative', 0.5, 1), dear])).toBe(2);
  });
});

describe('profiles of densities', () => {
  test('the lowest density over several slots is that over all their faces', () => {
    const face = fc.record({
      d: fc.double({ min: 1, max: 1000, noNaN: true }),
      w: fc.double({ min: 0.1, max: 10, noNaN: true }),
    });
    fc.assert(
      fc.property(
        fc.array(fc.array(face, { minLength: 60, maxLength: 80 }), { minLength: 1, maxLength: 3 }),
        fc.double({ min: 0.2, max: 1, noNaN: true }),
        (slots, k) => {
          const rows = slots.map((faces) => ({
            profile: densityProfile(
              sortedDensities(
                faces.map((face) => face.d ** 2 * face.w),
                faces.map((face) => face.w),
              ),
            ),
            factor: k,
            surface: faces.reduce((sum, face) => sum + face.w, 0),
          }));
          const all = slots.flat();
          const found = densityAt(rows, 0.05) as number;
          const total = all.reduce((sum, f) => sum + f.w, 0);
          const share = (fits: (d: number) => boolean) =>
            all.reduce((sum, f) => sum + (fits(f.d * k) ? f.w : 0), 0) / total;
          // Right within a piece of a profile, as a share of the surface; many faces may have the very density.
          expect(share((d) => d < found * (1 - 1e-6))).toBeLessThan(0.05 + 1 / PROFILE_PIECES);
          expect(share((d) => d < found * (1 + 1e-6))).toBeGreaterThan(0.05 - 1 / PROFILE_PIECES);
        },
      ),
      { numRuns: runs(60) },
    );
    expect(densityAt([], 0.05)).toBeNull();
  });
  test('two plain slots: the larger one decides, unless the smaller has its five hundredths', () => {
    const row = (d: number, surface: number) => ({
      profile: new Array(PROFILE_PIECES + 1).fill(d),
      factor: 1,
      surface,
    });
    expect(densityAt([row(100, 96), row(10, 4)], 0.05)).toBeCloseTo(100, 4);
    expect(densityAt([row(100, 94), row(10, 6)], 0.05)).toBeCloseTo(10, 4);
  });
});

const parts: PartSpec[] = [
  { ...quad(0, 0, 1, 1, 0.1, 0.1, 0.5, 0.5), slot: 'A' },
  { ...quad(2, 0, 1, 1, 0.1, 0.1, 0.5, 0.5), slot: 'B' },
];
const slots: SlotSpec[] = [
  { name: 'A', baseColor: 'p' },
  { name: 'B', baseColor: 'q' },
];
const facts = () => slotFacts([buildModel(slots, parts)], { sizes: sizesOf(64), pixelKey: (i) => i });
const known = () => ({ width: 64, height: 64 });

describe('planned surfaces', () => {
  test('a repeat of 2 m says how sharp a tiling surface is, how often it repeats, and what baking that takes', () => {
    const planned = PlannedSurface.parse({
      id: 'p',
      name: 'Wall',
      area: 36,
      width: 512,
      repeats: 'both',
      repeatLength: 2,
    });
    const [slot] = plannedSlots([planned], 1);
    expect(slot).toMatchObject({ repeats: 3, density: { p5: 256, median: 256 }, uncut: null });
    expect(slot.islands).toEqual([{ key: 'planned p', area: (3 * 512) ** 2 }]);
    // Without it nothing is known but that it is made at 512 px.
    const [unknown] = plannedSlots([{ ...planned, repeatLength: null }], 1);
    expect(unknown).toMatchObject({ repeats: 4, islands: [{ area: 512 ** 2 }] });
  });

  const surface = { id: 'x', name: 'Roof', area: 4, width: 128, height: 128, repeats: 'none' as const };
  test('take their room in the prediction until a slot takes their place', () => {
    const decisions = decide({ planned: [surface], sheets: two });
    const with1 = predict(
      [...facts(), ...plannedSlots(decisions.planned, 1)],
      withPlannedRoutes(decisions, decisions.planned),
      known,
    );
    const without = predict(facts(), decisions, known);
    expect(with1.flows).toHaveLength(3);
    expect(with1.drawCalls).toBe(without.drawCalls + 1);
    // 128 px over 4 m² are 64 px/m.
    expect(with1.flows[2].density?.median).toBeCloseTo(64, 9);
    const linked = decide({ planned: [{ ...surface, linked: 'A' }] });
    expect(plannedSlots(linked.planned, 1)).toEqual([]);
  });
  test('go where they are sent; a sheet that is gone spreads them', () => {
    const decisions = decide({ planned: [{ ...surface, to: 'b' }], sheets: two });
    const prediction = predict(
      [...facts(), ...plannedSlots(decisions.planned, 1)],
      withPlannedRoutes(decisions, decisions.planned),
      known,
    );
    expect(prediction.flows[2]).toMatchObject({ sheet: 1, by: 'hand' });
    const unrouted = withPlannedRoutes({ ...decisions, sheets: [two[0]] }, decisions.planned).routes;
    expect(routeTo(unrouted, plannedName(decisions.planned[0]))).toBeUndefined();
  });
});

test('a plan file holds the whole plan and nothing else of a project', () => {
  const decisions = decide({
    sheets: two,
    weights: { A: 2 },
    budget: { drawCalls: 7 },
    viewDistance: 3,
    repairs: { dropFaces: true },
  });
  const file = planFileOf(decisions);
  expect(JSON.stringify(file)).not.toContain('dropFaces');
  const back = withPlanFile(decide({ viewDistance: 9 }), JSON.parse(JSON.stringify(file)));
  expect(planOf(back)).toEqual(planOf(decisions));
  expect(back.viewDistance).toBe(9);
  expect(back.budget.drawCalls).toBe(7);
});

test('part of a proposal: what is left out keeps its route and the sheet that it leads to', () => {
  const before = decide({ sheets: [plainSheet('old', 'old', 512, 4), two[0]], routes: { A: 'old', B: 'old' } });
  const proposal = {
    decisions: decide({
      sheets: [plainSheet('new', 'new', 256, 4)],
      routes: { A: 'new', B: 'new' },
      scale: 'detail',
      join: true,
    }),
    routes: [
      { name: 'A', to: 'new', why: '' },
      { name: 'B', to: 'new', why: '' },
    ],
  };
  const all = takeProposal(before, proposal, null);
  expect(all.sheets.map((sheet) => sheet.id)).toEqual(['new']);
  const part = takeProposal(before, proposal, new Set(['A']));
  expect(part.routes).toEqual(routesFrom({ A: 'new', B: 'old' }));
  expect(part.sheets.map((sheet) => sheet.id)).toEqual(['new', 'old']);
  expect(MergeDecisions.safeParse(part).success).toBe(true);
  expect(part.proposed?.routes).toEqual(routesFrom({ A: 'new' }));
});
