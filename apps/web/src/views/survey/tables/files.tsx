import { bytes } from '../../../ui/format.ts';
import type { Column } from '../../../ui/table/column.ts';
import css from '../SurveyTables.module.css';
import type { SourceRow } from './source-rows.ts';

export const SOURCE_COLUMNS: Column<SourceRow>[] = [
  { key: 'path', title: 'File', width: 'minmax(180px, 1.2fr)', value: (sourceRow) => sourceRow.path },
  { key: 'kind', title: 'Kind', width: '60px', value: (sourceRow) => sourceRow.kind },
  {
    key: 'bytes',
    title: 'Size',
    width: '90px',
    value: (sourceRow) => sourceRow.bytes,
    cell: (sourceRow) => bytes(sourceRow.bytes),
  },
  {
    key: 'fate',
    title: 'What became of it',
    width: 'minmax(200px, 2fr)',
    value: (sourceRow) => sourceRow.fate,
    cell: (sourceRow) => (
      <span className={sourceRow.good ? '' : css.bad} title={sourceRow.fate}>
        {sourceRow.fate}
      </span>
    ),
  },
];

export const SOURCE_GROUPS: Record<string, (sourceRow: SourceRow) => string> = {
  folder: (sourceRow) => sourceRow.path.split('/').slice(0, -1).join('/'),
  kind: (sourceRow) => sourceRow.kind,
  'used or not': (sourceRow) => (sourceRow.good ? 'used' : 'not used'),
};
