import { IMAGE_CHANNELS } from '../scene/material.ts';
import { cellsFor, type Draw, type DrawScene } from './scene.ts';

/**
 * Models that are not drawn from the same data in both scenes; the others look the same whatever the view.
 * @returns their cells, in order
 */
export function changedCells(original: DrawScene, result: DrawScene): number[] {
  return original.cells.flatMap((_, cell) => (sameDraws(drawsOf(original, cell), drawsOf(result, cell)) ? [] : [cell]));
}

/** A scene of some of its models alone, in a picture of a side, px. */
export function onlyCells(scene: DrawScene, cells: readonly number[], size: number): DrawScene {
  const place = new Map(cells.map((cell, i) => [cell, i]));
  const draws = scene.draws.flatMap((draw) => {
    const cell = place.get(draw.cell);
    return cell === undefined ? [] : [{ ...draw, cell }];
  });
  return { draws, cells: cellsFor(cells.length, size) };
}

const drawsOf = ({ draws }: DrawScene, cell: number): Draw[] => draws.filter((draw) => draw.cell === cell);

const sameDraws = (a: Draw[], b: Draw[]): boolean =>
  a.length === b.length && a.every((draw, i) => sameDraw(draw, b[i]));

function sameDraw(a: Draw, b: Draw): boolean {
  return (
    a.mirrored === b.mirrored &&
    JSON.stringify(a.look) === JSON.stringify(b.look) &&
    sameNumbers(a.positions, b.positions) &&
    sameNumbers(a.normals, b.normals) &&
    sameNumbers(a.tangents, b.tangents) &&
    sameNumbers(a.colors, b.colors) &&
    IMAGE_CHANNELS.every(
      (channel) => a.textures[channel] === b.textures[channel] && sameNumbers(a.uvs[channel], b.uvs[channel]),
    )
  );
}

function sameNumbers(a: Float32Array | null | undefined, b: Float32Array | null | undefined): boolean {
  if (!a || !b) return !a && !b;
  return a.length === b.length && a.every((value, i) => Object.is(value, b[i]));
}
