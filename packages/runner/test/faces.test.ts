import { join } from 'node:path';
import { FaceDecisions } from '@wembrel/core/decisions/face-decisions';
import { writePng } from '@wembrel/core/image/png';
import { buildBarePlatform, buildPlatform } from '@wembrel/demo/platform';
import { buildRails } from '@wembrel/demo/rails';
import { buildFerns, buildRampRail } from '@wembrel/demo/strips';
import { describe, expect, test } from 'vitest';
import { kept } from '../../demo/test/kept.ts';
import { loadModel } from '../src/read/load.ts';
import { fidelityOf, folder, mergeFolder, put } from './here.ts';

const faces = (groups: object[], edits: object[]) => FaceDecisions.parse({ groups, edits });
const PAVING = { id: 'p', name: 'Paving', hue: 0, slots: ['PavingSlab', 'PavingCracked'] };
const MIX = {
  id: 'm',
  kind: 'cells',
  groups: ['p'],
  mix: [
    { slot: 'PavingSlab', share: 3 },
    { slot: 'PavingCracked', share: 1 },
  ],
  seed: 5,
};

describe('faces that are changed before all else', () => {
  test('a rail without UVs goes onto the strip of another model, and both are one slot of one sheet, as sharp as each other', async () => {
    const at = await put({ 'rails.glb': kept(buildRails), 'ramp-rail.glb': kept(buildRampRail) });
    const out = folder();
    const { report, manifest } = await mergeFolder(at, out, {
      sheets: 1,
      size: 512,
      margin: 4,
      keepApart: ['KerbStone', 'BattenWood'],
      maxRepeats: 64,
      faces: faces(
        [{ id: 'r', name: 'Ramp rail', hue: 0, parts: ['RampRail'] }],
        [{ id: 's', kind: 'strip', groups: ['r'], slot: 'HandrailSteel', bend: 60, fit: 'metres', amount: 0.8 }],
      ),
    });
    expect(report.edited).toEqual([
      {
        path: 'ramp-rail.glb',
        edits: [
          {
            edit: 's',
            faces: 24,
            said: expect.stringMatching(/^8 pieces, 8 straightened; 0.0496 to 0.0501 m/),
            faults: [],
            failed: false,
            // 0.05 m of 0.8 m a repeat, on a picture that is four times as wide as high.
            bottom: expect.closeTo(0.25, 4),
          },
        ],
      },
    ]);
    expect(report.faults.filter((fault) => fault.code !== 'starved sheet')).toEqual([]);
    expect(manifest.sheets[0].bays.map((bay) => bay.slot)).toContain('HandrailSteel');
    expect(manifest.keptApart.map((k) => k.slot).sort()).toEqual(['BattenWood', 'KerbStone']);
    // The raw slot of the ramp is gone with its pictures, and what was handed over looks as the edited models do.
    expect(report.written.join()).not.toMatch(/RampRailRaw/);
    expect(fidelityOf(report).psnr ?? 99).toBeGreaterThan(28);
    const ramp = await loadModel({ path: join(out, 'ramp-rail.glb'), name: 'ramp-rail.glb' });
    expect(ramp.slots.map((slot) => slot.name)).toEqual(['sheet']);
    // Straight around both corners: the strip's height is the same all along, so are densities.
    const part = ramp.parts[0];
    const uv = part.uvs[0] as Float32Array;
    for (let t = 0; t < part.indices.length; t += 3) {
      const v = [0, 1, 2].map((k) => uv[2 * part.indices[t + k] + 1]);
      expect(Math.max(...v) - Math.min(...v)).toBeGreaterThan(0);
    }
  });

  test('edited again gives the same bytes with one thread and with two; shares come out', async () => {
    const at = await put({ 'platform.glb': kept(buildPlatform) });
    const plan = { keepAll: true, embed: true, faces: faces([PAVING], [MIX]) };
    const [one, two] = [folder(), folder()];
    const result = await mergeFolder(at, one, plan, 1, { picture: 64 });
    await mergeFolder(at, two, plan, 2, { picture: 64 });
    const read = (dir: string) => loadModel({ path: join(dir, 'platform.glb'), name: 'platform.glb' });
    const bytes = await Promise.all(
      [one, two].map(async (d) => (await read(d)).parts.map((part) => [...(part.uvs[0] ?? [])])),
    );
    expect(bytes[0]).toEqual(bytes[1]);
    const model = await read(one);
    expect(model.parts.map((part) => [model.slots[part.slot].name, part.indices.length / 3]).sort()).toEqual(
      [
        ['PavingCracked', 40],
        ['PavingEdge', 40],
        ['PavingSlab', 120],
        ['PlatformSetts', 40],
      ].sort(),
    );
    expect(result.report.edited[0].edits[0].said).toBe('80 quads, 0 single triangles: PavingSlab 60, PavingCracked 20');
  });

  test('loose pictures find slots that changes of faces make; faces are laid on them in their proportions, and they are baked', async () => {
    const picture = (width: number, height: number, shade: number) =>
      writePng(
        Uint8Array.from({ length: width * height * 3 }, (_, i) => (shade + i * 7) % 256),
        width,
        height,
        3,
      );
    const at = await put({
      'platform.glb': kept(buildBarePlatform, 10),
      'Paving.png': picture(32, 32, 40),
      'Paving Cracked_BaseColor.png': picture(32, 32, 90),
      'Kerb_BaseColor.png': picture(64, 16, 3),
      'something else.png': picture(8, 8, 3),
    });
    const out = folder();
    const { report, manifest } = await mergeFolder(at, out, {
      sheets: 1,
      size: 128,
      margin: 2,
      mergeAll: true,
      faces: faces(
        [
          { id: 'k', name: 'Kerb', hue: 0, faces: { 'platform.glb': { 0: '0-19' } } },
          { id: 'p', name: 'Paving', hue: 0, slots: ['PlatformTop'] },
        ],
        [
          {
            id: 'm',
            kind: 'cells',
            groups: ['p'],
            mix: [
              { slot: 'Paving', share: 93 },
              { slot: 'Paving Cracked', share: 7 },
            ],
          },
          { id: 's', kind: 'strip', groups: ['k'], slot: 'Kerb' },
        ],
      ),
    });
    const bays = manifest.sheets[0].bays;
    expect([...new Set(bays.map((bay) => bay.slot))].sort()).toEqual(['Kerb', 'Paving', 'Paving Cracked']);
    // 0.6 m high on a picture of 4 : 1, so that one repeat is 2.4 m of the 6 m.
    expect(report.edited?.[0].edits[1].said).toMatch(/^1 piece, 1 straightened/);
    expect(fidelityOf(report).psnr ?? 99).toBeGreaterThan(30);
  });

  test('a change that finds no faces, or cannot be done, is a fault and nothing is lost', async () => {
    const at = await put({ 'platform.glb': kept(buildPlatform) });
    const { report } = await mergeFolder(
      at,
      folder(),
      {
        keepAll: true,
        faces: faces(
          [PAVING, { id: 'q', name: 'Gone', hue: 0, slots: ['NoSuchSlot'] }],
          [
            { id: 'x', kind: 'relax', groups: ['p'], set: 2 },
            { id: 'y', kind: 'slot', groups: ['q'], slot: 'Z' },
          ],
        ),
      },
      2,
      { picture: 64 },
    );
    expect(report.edited[0].edits[0]).toMatchObject({ edit: 'x', failed: true });
    expect(report.faults).toContainEqual({
      code: 'no faces',
      subject: 'Gone',
      message: 'no model has faces that this change (slot) could find',
    });
    expect(report.after).toEqual(report.before);
  });

  test('slots that are never turned keep the way that their texels run; others may be turned', async () => {
    const at = await put({ 'ferns.glb': kept(buildFerns), 'platform.glb': kept(buildPlatform) });
    const laid = async (keepTurn: string[]) => {
      const plan = { size: 256, margin: 2, rotate: 'free' as const, keepTurn };
      const { layout, manifest } = await mergeFolder(at, folder(), plan, 2, { picture: 64 });
      const slotOf = new Map(manifest.sheets[0].bays.map((bay) => [bay.id, bay.slot]));
      const { plots } = layout.sheets[0];
      const ferns = plots.filter((plot) => slotOf.get(plot.id) === 'FernFrond');
      expect(ferns.length).toBeGreaterThan(0);
      return { ferns, others: plots.filter((plot) => !ferns.includes(plot)) };
    };
    const held = await laid(['FernFrond']);
    for (const fern of held.ferns) expect([fern.mayTurn, fern.turns, fern.direction]).toEqual([false, 0, undefined]);
    expect(held.others.some((other) => other.mayTurn)).toBe(true);
    expect((await laid([])).ferns.every((fern) => fern.mayTurn)).toBe(true);
  });
});
