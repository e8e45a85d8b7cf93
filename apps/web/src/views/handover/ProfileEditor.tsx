import type { Profile, ProfileImage } from '@wembrel/core/decisions/profiles';
import { useState } from 'react';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Choice, TextField } from '../../ui/Field.tsx';
import { ImageEditor } from './ImageEditor.tsx';
import css from './ProfileEditor.module.css';
import { draftProblems, filesOf, withNewImage } from './profile-draft.ts';

export interface ProfileEditorProps {
  profile: Profile;
  /** Names of the other own profiles. */
  taken: ReadonlySet<string>;
  sheets: readonly string[];
  onSave: (profile: Profile) => void;
  onClose: () => void;
}

/** An own profile on the tree of files that it writes: what each is called, and what each channel carries. */
export function ProfileEditor({ profile, taken, sheets, onSave, onClose }: ProfileEditorProps) {
  const [draft, setDraft] = useState(profile);
  const problems = draftProblems(draft, taken);
  const setImage = (i: number, image: ProfileImage | null) =>
    setDraft({
      ...draft,
      images: draft.images.flatMap((one, k) => (k !== i ? [one] : image ? [image] : [])),
    });
  return (
    <Dialog
      open
      title="Edit profile"
      about="Images that are written beside those of the models. {sheet} in a name stands for the sheet's name."
      onClose={onClose}
    >
      <div className={css.head}>
        <TextField label="Name and folder" value={draft.name} onChange={(name) => setDraft({ ...draft, name })} />
        <TextField label="Title" value={draft.title} onChange={(title) => setDraft({ ...draft, title })} />
        <Choice
          label="Normal maps"
          value={draft.normalY}
          options={[
            { value: 'up', label: 'Y up' },
            { value: 'down', label: 'Y down' },
          ]}
          onChange={(normalY) => setDraft({ ...draft, normalY })}
        />
      </div>
      <p className={css.folder}>profiles/{draft.name}/</p>
      <ul className={css.images}>
        {draft.images.map((image, i) => (
          <ImageEditor
            // biome-ignore lint/suspicious/noArrayIndexKey: names change while they are typed
            key={i}
            image={image}
            onChange={(next) => setImage(i, next)}
            onRemove={() => setImage(i, null)}
          />
        ))}
      </ul>
      <Button onClick={() => setDraft(withNewImage(draft))}>Add an image</Button>
      {problems.length > 0 ? (
        <ul className={css.problems} role="alert">
          {problems.map((problem) => (
            <li key={problem}>{problem}</li>
          ))}
        </ul>
      ) : (
        <details>
          <summary>Files that it writes</summary>
          <ul className={css.files}>
            {filesOf(draft, sheets).map((file) => (
              <li key={file}>{file}</li>
            ))}
          </ul>
        </details>
      )}
      <div className={css.foot}>
        <Button tone="quiet" onClick={onClose}>
          Cancel
        </Button>
        <Button
          tone="main"
          disabled={problems.length > 0}
          title={problems[0]}
          onClick={() => {
            onSave(draft);
            onClose();
          }}
        >
          Save
        </Button>
      </div>
    </Dialog>
  );
}
