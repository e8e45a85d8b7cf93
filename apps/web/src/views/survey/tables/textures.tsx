import type { ProjectView, SurveyView } from '../../../contract/project.ts';
import { Swatch } from '../../../project/Swatch.tsx';
import type { Column } from '../../../ui/column.ts';
import { bytes, percent } from '../../../ui/format.ts';
import css from '../SurveyTables.module.css';

export type PictureRow = SurveyView['pictures'][number];

export function pictureColumns(project: ProjectView): Column<PictureRow>[] {
  const { format, largestTexture } = project.decisions.budget;
  return [
    {
      key: 'name',
      title: 'Texture',
      width: 'minmax(150px, 2fr)',
      value: (r) => r.name,
      cell: (r) => (
        <>
          <Swatch project={project} picture={r.key} /> {r.name}
        </>
      ),
    },
    { key: 'space', title: 'Read as', width: '70px', value: (r) => (r.colour ? 'sRGB' : 'linear') },
    {
      key: 'side',
      title: 'Size',
      width: '100px',
      value: (r) => r.width * r.height,
      cell: (r) => (
        <span
          className={largestTexture !== null && Math.max(r.width, r.height) > largestTexture ? css.over : ''}
        >{`${r.width} × ${r.height}`}</span>
      ),
    },
    {
      key: 'useful',
      title: 'Shows',
      width: '64px',
      value: (r) => r.usefulSide,
      cell: (r) => (r.nearlyFlat ? 'flat' : `${r.usefulSide}`),
    },
    { key: 'used', title: 'Used', width: '58px', value: (r) => r.used, cell: (r) => percent(r.used) },
    { key: 'copies', title: 'Copies', width: '64px', value: (r) => r.copies },
    { key: 'models', title: 'Models', width: '66px', value: (r) => r.models },
    {
      key: 'bytes',
      title: 'Memory',
      width: '92px',
      value: (r) => r.bytes[format] * r.copies,
      cell: (r) => bytes(r.bytes[format] * r.copies),
    },
  ];
}

export const PICTURE_GROUPS: Record<string, (r: PictureRow) => string> = {
  size: (r) => `${r.width} × ${r.height}`,
  use: (r) => ({ colour: 'colours', normal: 'normals', data: 'data' })[r.sense],
  copies: (r) => (r.copies > 1 ? 'twins' : 'single'),
};
