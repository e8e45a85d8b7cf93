import { useQueryClient } from '@tanstack/react-query';
import type { ProjectView } from '../../contract/project.ts';
import { call } from '../../project/call.ts';
import { notify } from '../../project/notices.ts';
import css from './SurveyView.module.css';

/** The folder that the project follows; only folders that were named when the server was started can be chosen. */
export function WatchChoice({ project }: { project: ProjectView }) {
  const client = useQueryClient();
  const { name, names } = project.watch;
  if (names.length === 0) return null;
  const choose = async (to: string | null) => {
    await call(`/api/projects/${project.id}/watch`, { method: 'PUT', json: { name: to } }).catch((error: Error) =>
      notify({ tone: 'fault', text: error.message }),
    );
    await client.invalidateQueries({ queryKey: ['project', project.id] });
  };
  return (
    <label className={css.watch}>
      Follow{' '}
      <select value={name ?? ''} onChange={(event) => void choose(event.target.value || null)}>
        <option value="">no folder</option>
        {names.map((name) => (
          <option key={name} value={name}>
            {name}
          </option>
        ))}
      </select>
    </label>
  );
}
