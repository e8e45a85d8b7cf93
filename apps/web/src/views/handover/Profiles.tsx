import { Profile, type ProfileChoice, SHIPPED_PROFILES } from '@wembrel/core/decisions/profiles';
import { sentence } from '@wembrel/core/errors';
import { channelTexts, IMAGE_ENDINGS, imageName } from '@wembrel/core/handover/profile-images';
import { useRef, useState } from 'react';
import type { MergeDecisions } from '../../contract/project.ts';
import { notify } from '../../project/notices.ts';
import type { ViewProps } from '../../project/view-props.ts';
import { Button } from '../../ui/Button.tsx';
import { counted } from '../../ui/format.ts';
import { ProfileEditor } from './ProfileEditor.tsx';
import css from './Profiles.module.css';
import { nameOf, toggled } from './profile-choice.ts';
import { copyOf } from './profile-draft.ts';

interface ProfilesProps {
  decisions: MergeDecisions;
  edit: ViewProps['edit'];
}

/** Conventions by which images are written beside those of the models: each with its files and what their channels carry. */
export function Profiles({ decisions, edit }: ProfilesProps) {
  const picker = useRef<HTMLInputElement>(null);
  const [edited, setEdited] = useState<Profile | null>(null);
  const chosen = new Set(decisions.profiles.map(nameOf));
  const own = decisions.profiles.flatMap((choice) => (typeof choice === 'string' ? [] : [choice]));
  const set = (label: string, profiles: ProfileChoice[]) => edit(label, (now) => ({ ...now, profiles }));
  const names = new Set(own.map(({ name }) => name));
  const isOwn = (profile: Profile) => !SHIPPED_PROFILES.includes(profile);
  const save = (from: Profile, profile: Profile) =>
    set(`${names.has(from.name) ? 'Change' : 'Add'} profile ${profile.name}`, [
      ...decisions.profiles.filter((choice) => nameOf(choice) !== from.name),
      profile,
    ]);
  const load = async (file: File) => {
    try {
      const profile = profileFrom(await file.text());
      const others = decisions.profiles.filter((choice) => nameOf(choice) !== profile.name);
      set(`Add profile ${profile.name}`, [...others, profile]);
    } catch (error) {
      notify({ tone: 'fault', text: `${file.name} is no profile: ${sentence(error)}` });
    }
  };
  return (
    <section>
      <h2>Profiles</h2>
      <p className={css.about}>
        Models name the images that glTF wants. For engines that want others, these are written beside them, in
        profiles/NAME.
      </p>
      <ul className={css.list}>
        {[...SHIPPED_PROFILES, ...own].map((profile) => (
          <Line
            key={profile.name}
            profile={profile}
            sheet={decisions.sheets[0].name}
            on={chosen.has(profile.name)}
            onChange={(on) =>
              set(`${on ? 'Add' : 'Remove'} profile ${profile.name}`, toggled(decisions.profiles, profile, on))
            }
            own={isOwn(profile)}
            onEdit={() => setEdited(isOwn(profile) ? profile : copyOf(profile, names))}
          />
        ))}
      </ul>
      <input
        ref={picker}
        type="file"
        hidden
        accept=".json"
        data-testid="profile-file"
        onChange={(event) => {
          const [file] = event.target.files ?? [];
          if (file) void load(file);
          event.target.value = '';
        }}
      />
      <Button onClick={() => picker.current?.click()}>Add from file</Button>
      {edited && (
        <ProfileEditor
          profile={edited}
          taken={new Set([...names].filter((name) => name !== edited.name))}
          sheets={decisions.sheets.map(({ name }) => name)}
          onSave={(profile) => save(edited, profile)}
          onClose={() => setEdited(null)}
        />
      )}
    </section>
  );
}

/** @throws Error saying what is wrong with a file */
function profileFrom(text: string): Profile {
  const parsed = Profile.safeParse(JSON.parse(text));
  if (parsed.success) return parsed.data;
  const [issue] = parsed.error.issues;
  throw new Error(`${issue.path.join('.') || 'the file'}: ${issue.message}`);
}

interface LineProps {
  profile: Profile;
  /** An example of a sheet's name. */
  sheet: string;
  on: boolean;
  onChange: (on: boolean) => void;
  /** It was made here, and can be changed; others are copied first. */
  own: boolean;
  onEdit: () => void;
}

function Line({ profile, sheet, on, onChange, own, onEdit }: LineProps) {
  return (
    <li>
      <label>
        <input type="checkbox" checked={on} onChange={(event) => onChange(event.target.checked)} />
        {profile.title}
      </label>
      <details>
        <summary>{counted(profile.images.length, 'file')} a sheet</summary>
        <table>
          <tbody>
            {profile.images.map((image) => (
              <tr key={image.name}>
                <td className={css.file}>
                  {imageName(image, sheet)}
                  {IMAGE_ENDINGS[image.format]}
                </td>
                <td className={css.channels}>
                  {Object.entries(channelTexts(image, profile)).map(([channel, text]) => (
                    <span key={channel}>
                      <b>{channel}</b> {text}
                    </span>
                  ))}
                </td>
                <td>
                  {image.space === 'srgb' ? 'sRGB' : 'linear'}
                  {image.divisor > 1 && `, 1/${image.divisor} side`}
                  {image.write === 'needed' && ', if not constant'}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <Button tone="quiet" onClick={onEdit}>
          {own ? 'Edit' : 'Edit a copy'}
        </Button>
      </details>
    </li>
  );
}
