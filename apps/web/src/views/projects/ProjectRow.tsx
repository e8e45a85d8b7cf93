import { useState } from 'react';
import type { ProjectSummary } from '../../contract/project.ts';
import { Button } from '../../ui/Button.tsx';
import { bytes, count, counted } from '../../ui/format.ts';
import css from './ProjectsView.module.css';
import { projectState } from './project-state.ts';

interface ProjectRowProps {
  project: ProjectSummary;
  onRename: (to: string) => void;
  onDuplicate: () => void;
  onDelete: () => void;
}

/** One entry of the list: what it looks like, what it costs before and after, and how far it is. */
export function ProjectRow({ project, onRename, onDuplicate, onDelete }: ProjectRowProps) {
  const [renaming, setRenaming] = useState(false);
  const { name, before, result } = project;
  const rename = (to: string) => {
    setRenaming(false);
    if (to.trim() !== '' && to.trim() !== name) onRename(to);
  };
  // Maps of a proof are smaller than those that will be handed over.
  const memory = result?.kind === 'final' ? bytes(result.textureBytes) : null;
  return (
    <tr>
      <td>
        <div className={css.entry}>
          <div className={css.pictures}>
            {project.pictures.map((address) => (
              <img key={address} src={address} alt="" loading="lazy" />
            ))}
          </div>
          <div>
            {renaming ? (
              <input
                className={css.rename}
                aria-label={`New name of ${name}`}
                defaultValue={name}
                maxLength={80}
                // biome-ignore lint/a11y/noAutofocus: the button that opens the field hands the focus on
                autoFocus
                onFocus={(event) => event.currentTarget.select()}
                onBlur={(event) => rename(event.target.value)}
                onKeyDown={(event) => {
                  if (event.key === 'Enter') rename(event.currentTarget.value);
                  if (event.key === 'Escape') setRenaming(false);
                }}
              />
            ) : (
              <a className={css.name} href={`/p/${project.id}/survey`}>
                {name}
              </a>
            )}
            <p className={css.about}>
              {project.models === null ? counted(project.sources, 'file') : counted(project.models, 'model')}, edited{' '}
              {new Date(project.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}
            </p>
            <p className={css.acts}>
              <Button tone="quiet" aria-label={`Rename ${name}`} onClick={() => setRenaming(true)}>
                Rename
              </Button>
              <Button tone="quiet" aria-label={`Duplicate ${name}`} onClick={onDuplicate}>
                Duplicate
              </Button>
              <Button tone="quiet" aria-label={`Delete ${name}`} onClick={onDelete}>
                Delete
              </Button>
            </p>
          </div>
        </div>
      </td>
      <BeforeAfter before={before && count(before.drawCalls)} after={result && count(result.drawCalls)} />
      <BeforeAfter before={before && bytes(before.textureBytes)} after={memory} />
      <td className={css.state}>{projectState(project)}</td>
    </tr>
  );
}

function BeforeAfter({ before, after }: { before: string | null; after: string | null }) {
  return (
    <td className={css.cost}>
      {before ?? '–'}
      {after !== null && (
        <>
          {' → '}
          <b>{after}</b>
        </>
      )}
    </td>
  );
}
