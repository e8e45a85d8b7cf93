import type { Column } from '../../../ui/column.ts';
import { bytes } from '../../../ui/format.ts';
import css from '../SurveyTables.module.css';
import type { SourceRow } from './source-rows.ts';

export const SOURCE_COLUMNS: Column<SourceRow>[] = [
  { key: 'path', title: 'File', width: 'minmax(180px, 1.2fr)', value: (r) => r.path },
  { key: 'kind', title: 'Kind', width: '60px', value: (r) => r.kind },
  { key: 'bytes', title: 'Size', width: '90px', value: (r) => r.bytes, cell: (r) => bytes(r.bytes) },
  {
    key: 'fate',
    title: 'What became of it',
    width: 'minmax(200px, 2fr)',
    value: (r) => r.fate,
    cell: (r) => (
      <span className={r.good ? '' : css.bad} title={r.fate}>
        {r.fate}
      </span>
    ),
  },
];

export const SOURCE_GROUPS: Record<string, (r: SourceRow) => string> = {
  folder: (r) => r.path.split('/').slice(0, -1).join('/'),
  kind: (r) => r.kind,
  'used or not': (r) => (r.good ? 'used' : 'not used'),
};
