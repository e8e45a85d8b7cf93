import { MergeDecisions } from '@wembrel/core/decisions/decisions';
import { PinnedBay } from '@wembrel/core/decisions/sheets';
import { placePoint } from '@wembrel/core/layout/place';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { boxAround } from '../src/stage/drag.ts';
import {
  aligned,
  apart,
  caught,
  distributed,
  type HandPlot,
  keptTogether,
  mirrored,
  moved,
  pinFor,
  placeOf,
  scaled,
  snapped,
  turned,
  withFlips,
  withoutPins,
  withPins,
  wrapDegrees,
} from '../src/views/uv/hand.ts';
import { bay } from './bay.ts';

const SHEET = { width: 512, height: 256 };

const three = [bay(1, 100, 50, 40, 20), bay(2, 200, 90, 10, 60), bay(3, 150, 120, 30, 30)];

/** Where a point of the shape comes to lie by a pin. */
function pointAt(p: HandPlot, pin: PinnedBay, x: number, y: number): [number, number] {
  const [bw, bh] = (p.natural as [number, number]).map((v) => Math.max(1, Math.ceil(v * pin.scale - 1e-6)));
  const shape = { ...pin, kind: 'plot', originX: 0, originY: 0, boxWidth: bw, boxHeight: bh };
  return placePoint(shape as never, x, y);
}

describe('bays moved by hand', () => {
  test('typed angles: the middle stays, corners turn about it, quarters stay exact', () => {
    fc.assert(
      fc.property(fc.integer({ min: -720, max: 720 }), (degrees) => {
        const p = bay(1, 200, 100, 40, 20);
        const pin = pinFor(p, { ...placeOf(p), turned: degrees }, SHEET);
        expect(PinnedBay.safeParse(pin).success).toBe(true);
        expect(pin.direction === undefined).toBe(degrees % 90 === 0);
        const [mx, my] = pointAt(p, pin, 40, 20);
        expect([mx, my]).toEqual([expect.closeTo(220, 6), expect.closeTo(110, 6)]);
        const [rx, ry] = pointAt(p, pin, 80, 20);
        const a = (degrees * Math.PI) / 180;
        expect(rx - mx).toBeCloseTo(20 * Math.cos(a), 6);
        expect(ry - my).toBeCloseTo(20 * Math.sin(a), 6);
      }),
    );
  });

  test('nothing leaves the sheet, however far it is moved', () => {
    fc.assert(
      fc.property(fc.integer({ min: -900, max: 900 }), fc.integer({ min: -900, max: 900 }), (dx, dy) => {
        moved(three, dx, dy).forEach((at, i) => {
          const pin = pinFor(three[i], at, SHEET);
          expect(pin.x).toBeGreaterThanOrEqual(0);
          expect(pin.y).toBeGreaterThanOrEqual(0);
          expect(pin.x + pin.width).toBeLessThanOrEqual(SHEET.width);
          expect(pin.y + pin.height).toBeLessThanOrEqual(SHEET.height);
        });
      }),
    );
  });

  test('turned and scaled as one: distances between middles stay, or grow alike', () => {
    const far = (list: { x: number; y: number }[]) => Math.hypot(list[0].x - list[1].x, list[0].y - list[1].y);
    for (const d of [90, -90, 37]) expect(far(turned(three, d))).toBeCloseTo(far(three.map(placeOf)), 9);
    expect(turned(three, 90).map((handPlace) => handPlace.turned)).toEqual([90, 90, 90]);
    expect(far(scaled(three, 2))).toBeCloseTo(2 * far(three.map(placeOf)), 9);
    expect(scaled(three, 2).map((handPlace) => handPlace.scale)).toEqual([1, 1, 1]);
    const stays = { ...three[0], mayTurn: false };
    expect(turned([stays, three[1]], 90)[0]).toEqual(placeOf(stays));
  });

  test('mirrored twice is as before; mirrored once, what stood left stands right, and the sheet knows which', () => {
    const decisions = MergeDecisions.parse({
      sheets: [{ id: '1', name: 'sheet', size: 512, margin: 2, flipped: ['other'] }],
    });
    for (const axis of ['x', 'y'] as const) {
      const bays = three.map((p, i) => ({ ...p, turned: [0, 90, 37][i] }));
      const once = bays.map((bay, i) => {
        const at = mirrored(bays, axis)[i];
        const box: HandPlot['box'] = [at.x - bay.box[2] / 2, at.y - bay.box[3] / 2, bay.box[2], bay.box[3]];
        return { ...bay, box, extent: box, turned: at.turned, flipped: [bay.key] };
      });
      expect(boxAround(once)).toEqual(boxAround(bays));
      mirrored(once, axis).forEach((at, i) => {
        expect(wrapDegrees(at.turned - bays[i].turned)).toBe(0);
        expect([at.x, at.y]).toEqual([placeOf(bays[i]).x, placeOf(bays[i]).y]);
      });
      const on = withFlips(decisions, '1', bays);
      expect(on.sheets[0].flipped).toEqual(['other', 'k1', 'k2', 'k3']);
      expect(withFlips(on, '1', once).sheets[0].flipped).toEqual(['other']);
    }
  });

  test('a flipped point goes where a mirror on the sheet takes it, however the bay is turned', () => {
    fc.assert(
      fc.property(fc.integer({ min: -180, max: 180 }), fc.constantFrom('x' as const, 'y' as const), (degrees, axis) => {
        const p = { ...bay(1, 200, 100, 40, 20), turned: degrees };
        const [at] = mirrored([p], axis);
        const [before, after] = [pinFor(p, placeOf(p), SHEET), pinFor(p, at, SHEET)];
        const [mx, my] = [placeOf(p).x, placeOf(p).y];
        for (const [x, y] of [
          [0, 0],
          [80, 0],
          [13, 31],
        ]) {
          const [bx, by] = pointAt(p, before, x, y);
          const [ax, ay] = pointAt(p, { ...after, flip: 80 } as PinnedBay, x, y);
          expect(ax - mx).toBeCloseTo(axis === 'x' ? mx - bx : bx - mx, 6);
          expect(ay - my).toBeCloseTo(axis === 'x' ? by - my : my - by, 6);
        }
      }),
    );
  });

  test('a drag is caught by the nearest edge in line, a margin beside another, or half a margin from the border; else it is free', () => {
    const sheet = { width: 512, height: 256, margin: 8 };
    const moving = [bay(1, 100, 100, 40, 20)];
    const other = [bay(2, 200, 60, 30, 50)];
    const drag = (dx: number, dy: number, reach = 5) => caught(moving, other, [dx, dy], reach, sheet);
    // In line with its left edge, a margin left of it, a margin right of it.
    expect(drag(97, 0)[0]).toBe(100);
    expect(drag(54, 0)[0]).toBe(52);
    expect(drag(136, 0)[0]).toBe(138);
    expect(drag(-94, -150)).toEqual([-96, -150]);
    expect(drag(-94, -94)).toEqual([-96, -96]);
    expect(drag(370, 130)).toEqual([368, 132]);
    expect(drag(75, 30)).toEqual([75, 30]);
    // Never by more than the reach, whatever lies about.
    fc.assert(
      fc.property(
        fc.double({ min: -90, max: 360, noNaN: true }),
        fc.double({ min: 0, max: 20, noNaN: true }),
        (dx, reach) => {
          expect(Math.abs(drag(dx, 0, reach)[0] - dx)).toBeLessThanOrEqual(reach);
        },
      ),
    );
  });

  test('on one line, with equal gaps, on a grid', () => {
    const box = boxAround(three);
    expect(box).toEqual({ left: 100, top: 50, right: 210, bottom: 150 });
    expect(aligned(three, 'left').map((handPlace, i) => handPlace.x - three[i].box[2] / 2)).toEqual([100, 100, 100]);
    expect(aligned(three, 'bottom').map((handPlace, i) => handPlace.y + three[i].box[3] / 2)).toEqual([150, 150, 150]);
    expect(new Set(aligned(three, 'centre').map((handPlace) => handPlace.x))).toEqual(new Set([155]));
    const across = distributed(three, 'x').map((handPlace, i) => handPlace.x - three[i].box[2] / 2);
    expect(across).toEqual([100, 200, 155]);
    expect(snapped([bay(1, 101.4, 50.6, 7, 9)], 4).map((handPlace) => [handPlace.x - 3.5, handPlace.y - 4.5])).toEqual([
      [100, 52],
    ]);
  });

  test('degrees are told between −180 and 180', () => {
    expect([-180, 180, 181, 540, -90, 360].map(wrapDegrees)).toEqual([180, 180, -179, 180, -90, 0]);
  });

  test('bays that are kept together belong to one group, and are no longer held one by one', () => {
    const start = MergeDecisions.parse({});
    const { id } = start.sheets[0];
    const held = withPins(start, id, [pinFor(three[0], placeOf(three[0]), SHEET)]);
    const two = keptTogether(held, id, three.slice(0, 2), SHEET);
    const groups = (decisions: typeof two) => decisions.sheets[0].rigid.map((g) => g.map((p) => p.key));
    expect([groups(two), two.sheets[0].pinned]).toEqual([[['k1', 'k2']], {}]);
    expect(groups(keptTogether(two, id, three.slice(1), SHEET))).toEqual([['k2', 'k3']]);
    expect(groups(apart(two, id, new Set(['k2'])))).toEqual([]);
    expect(MergeDecisions.safeParse(two).success).toBe(true);
  });

  test('a pin replaces that of the same bay only, and goes when it is let go', () => {
    const start = MergeDecisions.parse({});
    const id = start.sheets[0].id;
    const pin = (p: HandPlot, dx: number) => pinFor(p, { ...placeOf(p), x: placeOf(p).x + dx }, SHEET);
    const one = withPins(start, id, [pin(three[0], 0), pin(three[1], 0)]);
    const two = withPins(one, id, [pin(three[0], 7)]);
    expect(two.sheets[0].pinned).toMatchObject({ k1: { x: 107 }, k2: { x: 200 } });
    expect(Object.keys(withoutPins(two, id, new Set(['k2', 'other'])).sheets[0].pinned)).toEqual(['k1']);
    expect(MergeDecisions.safeParse(two).success).toBe(true);
  });
});
