import { type RefObject, useRef } from 'react';
import { running } from '../../project/api.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button, ButtonLink } from '../../ui/Button.tsx';
import frame from '../../ui/View.module.css';
import { WatchChoice } from './WatchChoice.tsx';

const ACCEPT = '.glb,.gltf,.bin,.obj,.mtl,.ply,.stl,.png,.jpg,.jpeg,.webp,.tga,.exr,.tif,.tiff,.ktx2,.zip';

export interface SurveyHeadProps extends ViewProps {
  /** The field that chooses files, for other buttons that do the same. */
  pick: RefObject<HTMLInputElement | null>;
  onReading: () => void;
}

/** Files and folders come in here. */
export function SurveyHead({ project, add, sending, pick, onReading }: SurveyHeadProps) {
  const folder = useRef<HTMLInputElement>(null);
  const { survey } = project;
  const busy = running(project, 'survey');
  const taken = (input: HTMLInputElement) => {
    add([...(input.files ?? [])].map((file) => ({ path: file.webkitRelativePath || file.name, file })));
    input.value = '';
  };
  return (
    <header className={frame.head}>
      <h1>Survey</h1>
      {sending && <p role="status">{sending}</p>}
      {busy && survey === null && <p role="status">Reading the files …</p>}
      <input
        ref={pick}
        type="file"
        multiple
        hidden
        accept={ACCEPT}
        data-testid="files"
        onChange={(event) => taken(event.target)}
      />
      <input ref={folder} type="file" hidden {...{ webkitdirectory: '' }} onChange={(event) => taken(event.target)} />
      <WatchChoice project={project} />
      {survey && (
        <>
          <Button onClick={onReading}>Import settings</Button>
          <ButtonLink href={`/api/projects/${project.id}/report`} download>
            Report
          </ButtonLink>
        </>
      )}
      <Button onClick={() => folder.current?.click()}>Add a folder</Button>
      <Button tone="main" onClick={() => pick.current?.click()}>
        Add files
      </Button>
    </header>
  );
}
