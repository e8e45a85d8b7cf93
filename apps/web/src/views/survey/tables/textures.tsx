import type { ProjectView, SurveyView } from '../../../contract/project.ts';
import { Swatch } from '../../../project/Swatch.tsx';
import { openTexels } from '../../../project/texels/open-texels.ts';
import { bytes, percent } from '../../../ui/format.ts';
import type { Column } from '../../../ui/table/column.ts';
import css from '../SurveyTables.module.css';

export type PictureRow = SurveyView['pictures'][number];

/** Opens a texture as one of its models holds it. */
export function showTexels(project: ProjectView, { name, sense, places }: PictureRow): void {
  const place = places[0];
  const file = project.survey?.models[place?.model ?? 0]?.file;
  if (!place || file === undefined || !project.surveyJob) return;
  openTexels({
    title: name,
    source: { url: `/api/jobs/${project.surveyJob}/files/views/${file}.glb`, texture: place.name },
    kind: sense,
  });
}

export function pictureColumns(project: ProjectView): Column<PictureRow>[] {
  const { format, largestTexture } = project.decisions.budget;
  return [
    {
      key: 'name',
      title: 'Texture',
      width: 'minmax(150px, 2fr)',
      value: (facts) => facts.name,
      cell: (facts) => (
        <>
          <button
            type="button"
            className={css.texels}
            aria-label={`View texels of ${facts.name}`}
            title="View texels"
            onClick={(event) => {
              event.stopPropagation();
              showTexels(project, facts);
            }}
          >
            <Swatch project={project} picture={facts.key} />
          </button>{' '}
          {facts.name}
        </>
      ),
    },
    { key: 'space', title: 'Read as', width: '70px', value: (facts) => (facts.colour ? 'sRGB' : 'linear') },
    {
      key: 'side',
      title: 'Size',
      width: '100px',
      value: (facts) => facts.width * facts.height,
      cell: (facts) => (
        <span
          className={largestTexture !== null && Math.max(facts.width, facts.height) > largestTexture ? css.over : ''}
        >{`${facts.width} × ${facts.height}`}</span>
      ),
    },
    {
      key: 'useful',
      title: 'Shows',
      width: '64px',
      value: (facts) => facts.usefulSide,
      cell: (facts) => (facts.nearlyFlat ? 'flat' : `${facts.usefulSide}`),
    },
    { key: 'used', title: 'Used', width: '58px', value: (facts) => facts.used, cell: (facts) => percent(facts.used) },
    { key: 'copies', title: 'Copies', width: '64px', value: (facts) => facts.copies },
    { key: 'models', title: 'Models', width: '66px', value: (facts) => facts.models },
    {
      key: 'bytes',
      title: 'Memory',
      width: '92px',
      value: (facts) => facts.bytes[format] * facts.copies,
      cell: (facts) => bytes(facts.bytes[format] * facts.copies),
    },
  ];
}

export const PICTURE_GROUPS: Record<string, (pictureFacts: PictureRow) => string> = {
  size: (facts) => `${facts.width} × ${facts.height}`,
  use: (facts) => ({ colour: 'colours', normal: 'normals', data: 'data' })[facts.sense],
  copies: (facts) => (facts.copies > 1 ? 'duplicate' : 'single'),
};
