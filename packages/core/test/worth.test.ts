import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { MergeDecisions } from '../src/decisions/decisions.ts';
import { defaultPlanOf, isUntouchedPlan } from '../src/decisions/untouched.ts';
import { type AssignableSlot, assign } from '../src/plan/assign.ts';
import { DrawCallCounter } from '../src/plan/draw-calls.ts';
import { neededMaps } from '../src/plan/sheet-maps.ts';
import { runs } from './sampling.ts';

const CLASSES = ['["OPAQUE",0,false,false]', '["MASK",0.5,false,false]', '["BLEND",0,false,false]'];

interface Spec {
  model: number;
  mesh: number;
  of: number;
  /** Bytes of its own texture. */
  bytes: number;
  textures?: number;
}

const slotOf = ({ model, mesh, of, bytes, textures = 1 }: Spec, i: number): AssignableSlot => ({
  name: `S${i}`,
  model: `m${model}.glb`,
  objects: [],
  pictures: [`p${i}`],
  flat: false,
  repeats: 1,
  alphaMode: 'OPAQUE',
  classKey: CLASSES[of],
  obstacle: null,
  unfit: {},
  uncut: 'no',
  look: `look ${i}`,
  textures: Array.from({ length: textures }, (_, k) => ({ key: `p${i} ${k}`, bytes })),
  drawn: {
    model,
    slot: i,
    classKey: CLASSES[of],
    maps: { normal: false, emissive: false },
    constant: { orm: 'the same', emissive: 'none' },
    parts: [
      {
        mesh,
        drawCalls: 1,
        joinable: true,
        apart: false,
        semantics: ['NORMAL', 'POSITION', 'TEXCOORD_0'],
        uvSets: [0],
      },
    ],
  },
});

const decide = (size: number, more: object = {}) =>
  MergeDecisions.parse({ sheets: [{ id: '1', name: 'sheet', size, margin: 4 }], ...more });

/** Bytes of one map of 256², BC7, with mips. */
const MAP_256 = 87_408;

const codes = (specs: Spec[], decisions: MergeDecisions) =>
  assign(specs.map(slotOf), decisions).map((assignment) => assignment.code ?? 'merged');

describe('a gain or nothing', () => {
  test('a slot alone is kept apart where its sheet would take more memory, merged where it takes less', () => {
    const alone = (bytes: number) => codes([{ model: 0, mesh: 0, of: 0, bytes }], decide(256))[0];
    expect(alone(MAP_256 - 1)).toBe('no-gain');
    expect(alone(MAP_256 + 1)).toBe('merged');
    // As much memory, and as many textures and materials: nothing is gained.
    expect(alone(MAP_256)).toBe('no-gain');
  });

  test('at equal memory fewer textures are a gain', () => {
    expect(codes([{ model: 0, mesh: 0, of: 0, bytes: MAP_256 / 2, textures: 2 }], decide(256))).toEqual(['merged']);
  });

  test('slots of one mesh are merged at any price, since they become one draw call', () => {
    const specs = [0, 1].map((): Spec => ({ model: 0, mesh: 0, of: 0, bytes: 16 }));
    expect(codes(specs, decide(2048))).toEqual(['merged', 'merged']);
    // In meshes of their own they are joined only where that is decided.
    const apart = specs.map((spec, i) => ({ ...spec, mesh: i }));
    expect(codes(apart, decide(2048))).toEqual(['no-gain', 'no-gain']);
    expect(codes(apart, decide(2048, { join: true }))).toEqual(['merged', 'merged']);
  });

  test('what goes by hand goes; what is to be merged without gain is merged', () => {
    const specs: Spec[] = [{ model: 0, mesh: 0, of: 0, bytes: 16 }];
    expect(codes(specs, decide(2048, { routes: { S0: '1' } }))).toEqual(['merged']);
    expect(
      codes(specs, decide(2048, { rules: [{ id: 'r', when: { kind: 'name', pattern: 'S*' }, to: '1' }] })),
    ).toEqual(['merged']);
    expect(codes(specs, decide(2048, { mergeAll: true }))).toEqual(['merged']);
    const leftOut = [{ slot: 'S0', why: 'starved' as const }];
    expect(codes(specs, decide(2048, { mergeAll: true, leftOut }))).toEqual(['starved']);
    expect(codes(specs, decide(2048, { leftOut, routes: { S0: '1' } }))).toEqual(['merged']);
  });

  test('a lone slot goes along onto a sheet that others pay for, and says what was weighed where it does not', () => {
    const pair = [0, 1].map((): Spec => ({ model: 0, mesh: 0, of: 0, bytes: 16 }));
    const lone: Spec = { model: 1, mesh: 0, of: 2, bytes: 16 };
    expect(codes([...pair, lone], decide(2048))).toEqual(['merged', 'merged', 'merged']);
    const [kept] = assign([slotOf(lone, 0)], decide(2048));
    expect(kept.reason).toMatch(/alpha-blended.*no draw call.*5\.3 MiB of textures instead of 0\.00/);
  });

  test('for any slots: never more memory without fewer draw calls', () => {
    const spec = fc.record({
      model: fc.nat(2),
      mesh: fc.nat(1),
      of: fc.nat(2),
      bytes: fc.integer({ min: 16, max: 400_000 }),
    });
    fc.assert(
      fc.property(
        fc.array(spec, { minLength: 1, maxLength: 8 }),
        fc.constantFrom(64, 256, 512),
        fc.boolean(),
        (specs, size, join) => {
          const decisions = decide(size, { join });
          const slots = specs.map(slotOf);
          const merged = assign(slots, decisions).map((assignment) => !assignment.code);
          const counter = new DrawCallCounter(
            slots.map((slot) => slot.drawn),
            join ? 'scene' : 'mesh',
          );
          const calls = (to: boolean[]) => counter.count(to.map((on) => (on ? 0 : -1)));
          const none = merged.map(() => false);
          const kept = slots.reduce((sum, slot, i) => sum + (merged[i] ? 0 : slot.textures[0].bytes), 0);
          const before = slots.reduce((sum, slot) => sum + slot.textures[0].bytes, 0);
          const maps = neededMaps(slots.filter((_, i) => merged[i]).map((slot) => slot.drawn)).length;
          const after = kept + maps * { 64: 5488, 256: MAP_256, 512: 349_552 }[size as 64 | 256 | 512];
          if (after > before) expect(calls(merged)).toBeLessThan(calls(none));
        },
      ),
      { numRuns: runs(300) },
    );
  });
});

describe('maps of one value', () => {
  const use = (orm: string | null, emissive: string | null = 'none', glows = false) => ({
    maps: { normal: false, emissive: glows },
    constant: { orm, emissive },
  });
  test('are factors where all slots have the same', () => {
    expect(neededMaps([])).toEqual([]);
    expect(neededMaps([use('a'), use('a')])).toEqual(['baseColor']);
    expect(neededMaps([use('a'), use('b')])).toEqual(['baseColor', 'orm']);
    expect(neededMaps([use(null)])).toEqual(['baseColor', 'orm']);
    expect(neededMaps([use('a', 'x', true), use('a', 'x', true)])).toEqual(['baseColor']);
    expect(neededMaps([use('a', 'x', true), use('a', 'y', false)])).toEqual(['baseColor', 'emissive']);
  });
});

describe('a plan that nobody changed', () => {
  test('is one that begins, or that was made for the files; any change by hand makes it touched', () => {
    const start = MergeDecisions.parse({});
    expect(isUntouchedPlan(start)).toBe(true);
    const sheets = [{ ...start.sheets[0], size: 512 }];
    const made: MergeDecisions = {
      ...start,
      ...defaultPlanOf({
        ...start,
        sheets,
        scale: 'detail',
        routes: [{ slot: 'A', to: '1' }],
        leftOut: [{ slot: 'B', why: 'no-gain' }],
        proposed: { sheets, routes: [{ slot: 'A', to: '1' }], cuts: [] },
      }),
    };
    expect(isUntouchedPlan(made)).toBe(true);
    expect(isUntouchedPlan({ ...made, viewDistance: 4 })).toBe(true);
    for (const change of [
      { join: true },
      { sheets: [{ ...sheets[0], margin: 3 }] },
      { routes: [] },
      { weights: [{ slot: 'A', weight: 2 }] },
    ])
      expect(isUntouchedPlan({ ...made, ...change }), JSON.stringify(change)).toBe(false);
  });
});
