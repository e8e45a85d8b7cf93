import type { TextureFormat } from '@wembrel/core/image/texture-memory';
import type { FileRow } from '../../../contract/project.ts';
import { bytes, count } from '../../../ui/format.ts';
import type { Column } from '../../../ui/table/column.ts';
import css from '../SurveyTables.module.css';

const figure = (report: FileRow, text: string) => (report.ok ? text : '–');

const whole = (key: 'slots' | 'textures' | 'triangles' | 'gpuVertices' | 'drawCalls', title: string, width: string) =>
  ({
    key,
    title,
    width,
    value: (report: FileRow) => report[key],
    cell: (report: FileRow) => figure(report, count(report[key])),
  }) satisfies Column<FileRow>;

export function modelColumns(format: TextureFormat): Column<FileRow>[] {
  return [
    {
      key: 'path',
      title: 'Model',
      width: 'minmax(130px, 2.4fr)',
      value: (report) => `${report.path} ${report.error ?? ''}`,
      cell: (report) =>
        report.ok ? (
          <span title={[report.path, ...(report.notes ?? [])].join('\n')}>
            {report.path}
            {report.notes?.map((note) => (
              <em key={note} className={css.note}>
                {note}
              </em>
            ))}
          </span>
        ) : (
          <span className={css.bad} title={`${report.path}: ${report.error}`}>
            {report.path}: {report.error}
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
      value: (report) => report.textureBytes?.[format] ?? 0,
      cell: (report) => figure(report, bytes(report.textureBytes?.[format] ?? 0)),
    },
    whole('triangles', 'Triangles', '82px'),
    whole('gpuVertices', 'GPU vertices', '96px'),
  ];
}

export const MODEL_GROUPS: Record<string, (fileReport: FileRow) => string> = {
  folder: (report) => report.path.split('/').slice(0, -1).join('/'),
  kind: (report) => (report.path.split('.').pop() ?? '').toUpperCase(),
  'read or not': (report) => (report.ok ? 'read' : 'not read'),
};
