import type { TextureFormat } from '@wembrel/core/survey/texture-memory';
import type { FileRow } from '../../../contract/project.ts';
import type { Column } from '../../../ui/column.ts';
import { bytes, count } from '../../../ui/format.ts';
import css from '../SurveyTables.module.css';

const figure = (r: FileRow, text: string) => (r.ok ? text : '–');

const whole = (key: 'slots' | 'textures' | 'triangles' | 'gpuVertices' | 'drawCalls', title: string, width: string) =>
  ({
    key,
    title,
    width,
    value: (r: FileRow) => r[key],
    cell: (r: FileRow) => figure(r, count(r[key])),
  }) satisfies Column<FileRow>;

export function modelColumns(format: TextureFormat): Column<FileRow>[] {
  return [
    {
      key: 'path',
      title: 'Model',
      width: 'minmax(130px, 2.4fr)',
      value: (r) => `${r.path} ${r.error ?? ''}`,
      cell: (r) =>
        r.ok ? (
          <span title={[r.path, ...(r.notes ?? [])].join('\n')}>
            {r.path}
            {r.notes?.map((n) => (
              <em key={n} className={css.note}>
                {n}
              </em>
            ))}
          </span>
        ) : (
          <span className={css.bad} title={`${r.path}: ${r.error}`}>
            {r.path}: {r.error}
          </span>
        ),
    },
    whole('drawCalls', 'Draw calls', '86px'),
    whole('slots', 'Slots', '56px'),
    whole('textures', 'Textures', '74px'),
    {
      key: 'bytes',
      title: 'Memory',
      width: '84px',
      value: (r) => r.textureBytes?.[format] ?? 0,
      cell: (r) => figure(r, bytes(r.textureBytes?.[format] ?? 0)),
    },
    whole('triangles', 'Triangles', '82px'),
    whole('gpuVertices', 'GPU vertices', '96px'),
  ];
}

export const MODEL_GROUPS: Record<string, (r: FileRow) => string> = {
  folder: (r) => r.path.split('/').slice(0, -1).join('/'),
  kind: (r) => (r.path.split('.').pop() ?? '').toUpperCase(),
  'read or not': (r) => (r.ok ? 'read' : 'not read'),
};
