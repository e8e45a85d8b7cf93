import { utf8Bytes } from '@wembrel/core/formats/gltf/glb';
import { box, type Chart, lathe } from './geometry.ts';
import { enamel, paint } from './looks.ts';

/** The same kind of small things in the formats of other programs: OBJ, PLY and STL. */

/** A notice board: OBJ with groups, quads, negative indices, an MTL with metallic and roughness, and a texture. */
export function buildNoticeBoard(): Record<string, Uint8Array> {
  const lines = ['# notice board of the halt', 'mtllib notice-board.mtl'];
  const write = (name: string, material: string, charts: Chart[], relative: boolean) => {
    lines.push(`o ${name}`, `usemtl ${material}`);
    for (const chart of charts) {
      for (let i = 0; i < chart.positions.length; i += 3)
        lines.push(
          `v ${chart.positions
            .slice(i, i + 3)
            .map(short)
            .join(' ')}`,
        );
      for (let i = 0; i < chart.local.length; i += 2)
        lines.push(`vt ${short(chart.local[i] / chart.width)} ${short(1 - chart.local[i + 1] / chart.height)}`);
      for (let i = 0; i < chart.normals.length; i += 3)
        lines.push(
          `vn ${chart.normals
            .slice(i, i + 3)
            .map(short)
            .join(' ')}`,
        );
      count += 4;
      // Corners of a rectangle run clockwise on the chart, so the face takes them backwards.
      const corner = (k: number) => {
        const n = relative ? k - 4 : count - 4 + k + 1;
        return `${n}/${n}/${n}`;
      };
      lines.push(`f ${[0, 3, 2, 1].map(corner).join(' ')}`);
    }
  };
  let count = 0;
  write('board', 'NoticeFace', box([0, 1.5, 0], [1.2, 0.8, 0.04]), false);
  write(
    'post',
    'NoticeIron',
    [...box([-0.55, 0.75, 0], [0.05, 1.5, 0.05]), ...box([0.55, 0.75, 0], [0.05, 1.5, 0.05])],
    true,
  );
  const mtl = [
    'newmtl NoticeFace',
    'Kd 1 1 1',
    'Pr 0.6',
    'Pm 0',
    'map_Kd notice-face.png',
    'newmtl NoticeIron',
    'Kd 0.03 0.04 0.04',
    'Pr 0.45',
    'Pm 0.9',
    '',
  ];
  return {
    'notice-board.obj': utf8Bytes(`${lines.join('\n')}\n`),
    'notice-board.mtl': utf8Bytes(mtl.join('\n')),
    'notice-face.png': paint(enamel([236, 232, 216], [40, 46, 52], 12), 256).baseColor,
  };
}

const short = (v: number) => String(Math.round(v * 1e6) / 1e6);

/** A boundary stone scanned with its colours: binary PLY. */
export function buildStone(): Uint8Array {
  const [chart] = lathe(
    [0, 0, 0],
    [
      [0, 0.6],
      [0.12, 0.58],
      [0.18, 0.5],
      [0.2, 0.2],
      [0.22, 0],
    ],
    24,
  );
  const vertices = chart.positions.length / 3;
  const faces = chart.indices.length / 3;
  const header = utf8Bytes(
    `ply\nformat binary_little_endian 1.0\ncomment boundary stone\nelement vertex ${vertices}\n${[
      'x',
      'y',
      'z',
      'nx',
      'ny',
      'nz',
    ]
      .map((path) => `property float ${path}\n`)
      .join(
        '',
      )}${['red', 'green', 'blue'].map((path) => `property uchar ${path}\n`).join('')}element face ${faces}\nproperty list uchar int vertex_indices\nend_header\n`,
  );
  const out = new Uint8Array(header.length + vertices * 27 + faces * 13);
  out.set(header);
  const view = new DataView(out.buffer);
  let at = header.length;
  for (let v = 0; v < vertices; v++) {
    for (const list of [chart.positions, chart.normals])
      for (let k = 0; k < 3; k++, at += 4) view.setFloat32(at, list[v * 3 + k], true);
    const moss = Math.min(1, Math.max(0, 1 - chart.positions[v * 3 + 1] * 2.5));
    for (const [stone, green] of [
      [150, 84],
      [146, 104],
      [136, 62],
    ])
      out[at++] = Math.round(stone + (green - stone) * moss);
  }
  for (let f = 0; f < faces; f++) {
    out[at++] = 3;
    for (let k = 0; k < 3; k++, at += 4) view.setInt32(at, chart.indices[f * 3 + k], true);
  }
  return out;
}

/** A bracket from a workshop: STL in millimetres, Z up. */
export function buildBracket(): Uint8Array {
  const charts = [...box([0, 0, 30], [80, 6, 60]), ...box([0, 30, 3], [80, 60, 6])];
  const lines = ['solid bracket'];
  for (const chart of charts)
    for (let t = 0; t < chart.indices.length; t += 3) {
      const v = [0, 1, 2].map((k) => chart.positions.slice(chart.indices[t + k] * 3, chart.indices[t + k] * 3 + 3));
      const n = chart.normals.slice(chart.indices[t] * 3, chart.indices[t] * 3 + 3);
      lines.push(`facet normal ${n.map(short).join(' ')}`, ' outer loop');
      for (const p of v) lines.push(`  vertex ${p.map(short).join(' ')}`);
      lines.push(' endloop', 'endfacet');
    }
  lines.push('endsolid bracket', '');
  return utf8Bytes(lines.join('\n'));
}
