import { QueryClientProvider, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ProjectSummary } from '../../contract/project.ts';
import { queryClient } from '../../project/api.ts';
import { call } from '../../project/call.ts';
import { dismiss, notify, useNotices } from '../../project/notices.ts';
import { Button } from '../../ui/Button.tsx';
import { count } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Notices } from '../../ui/Notices.tsx';
import { DiskLine } from './DiskLine.tsx';
import css from './ProjectsView.module.css';

const KEY = ['projects'];

function Inside() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: KEY, queryFn: () => call<ProjectSummary[]>('/api/projects') });
  const notices = useNotices((notices) => notices.list);
  const [name, setName] = useState('');
  const [renaming, setRenaming] = useState<string | null>(null);

  const attempt = async (work: () => Promise<unknown>) => {
    try {
      await work();
    } catch (e) {
      notify({ tone: 'fault', text: (e as Error).message });
    }
    await client.invalidateQueries({ queryKey: KEY });
  };
  const open = (make: () => Promise<{ id: string }>) =>
    attempt(async () => {
      window.location.href = `/p/${(await make()).id}/survey`;
    });
  const remove = (projectSummary: ProjectSummary) =>
    attempt(async () => {
      await call(`/api/projects/${projectSummary.id}`, { method: 'DELETE', json: {} });
      notify({
        tone: 'plain',
        text: `${projectSummary.name} was deleted.`,
        action: {
          label: 'Undo',
          run: () =>
            void attempt(() => call(`/api/projects/${projectSummary.id}/restore`, { method: 'POST', json: {} })),
        },
      });
    });
  const rename = (projectSummary: ProjectSummary, to: string) => {
    setRenaming(null);
    if (to.trim() !== '' && to.trim() !== projectSummary.name)
      void attempt(() => call(`/api/projects/${projectSummary.id}`, { method: 'PATCH', json: { name: to } }));
  };
  return (
    <div className={css.page}>
      <header className={css.head}>
        <p className={css.mark}>Wembrel</p>
        <h1>Projects</h1>
        <form
          className={css.form}
          onSubmit={(event) => {
            event.preventDefault();
            void open(() => call('/api/projects', { method: 'POST', json: { name } }));
          }}
        >
          <label htmlFor="name">New project</label>
          <input
            id="name"
            value={name}
            onChange={(event) => setName(event.target.value)}
            placeholder="Its name"
            maxLength={80}
          />
          <Button tone="main" type="submit" disabled={name.trim() === ''}>
            Create
          </Button>
          <Button onClick={() => void open(() => call('/api/demo', { method: 'POST', json: {} }))}>
            Open the demo
          </Button>
          <label className={css.more}>
            or{' '}
            <select
              value=""
              aria-label="Another part of the demo"
              onChange={(event) =>
                void open(() => call('/api/demo', { method: 'POST', json: { part: event.target.value } }))
              }
            >
              <option value="" disabled>
                another part of it
              </option>
              <option value="signs">forty signs with one palette each</option>
              <option value="surfaces">platform and rails: cells, strips, UV tiles</option>
              <option value="posts">ticket post and lamps: high-poly to low-poly</option>
              <option value="everything">everything, broken files too</option>
            </select>
          </label>
        </form>
      </header>
      {error && <ErrorLine>{error.message}</ErrorLine>}
      {data?.length === 0 && (
        <EmptyState title="No project yet">
          Create one and drop models into it, or open the demo: the furniture of a tram stop.
        </EmptyState>
      )}
      {data && data.length > 0 && (
        <table>
          <thead>
            <tr>
              <th scope="col">Project</th>
              <th scope="col">Files</th>
              <th scope="col">Changed</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {data.map((projectSummary) => (
              <tr key={projectSummary.id}>
                <td>
                  {renaming === projectSummary.id ? (
                    <input
                      className={css.rename}
                      aria-label={`New name of ${projectSummary.name}`}
                      defaultValue={projectSummary.name}
                      maxLength={80}
                      // biome-ignore lint/a11y/noAutofocus: the button that opens the field hands the focus on
                      autoFocus
                      onFocus={(event) => event.currentTarget.select()}
                      onBlur={(event) => rename(projectSummary, event.target.value)}
                      onKeyDown={(event) => {
                        if (event.key === 'Enter') rename(projectSummary, event.currentTarget.value);
                        if (event.key === 'Escape') setRenaming(null);
                      }}
                    />
                  ) : (
                    <a href={`/p/${projectSummary.id}/survey`}>{projectSummary.name}</a>
                  )}
                </td>
                <td>{count(projectSummary.sources)}</td>
                <td>
                  {new Date(projectSummary.changed).toLocaleString('en-GB', {
                    dateStyle: 'medium',
                    timeStyle: 'short',
                  })}
                </td>
                <td className={css.acts}>
                  <Button
                    tone="quiet"
                    aria-label={`Rename ${projectSummary.name}`}
                    onClick={() => setRenaming(projectSummary.id)}
                  >
                    Rename
                  </Button>
                  <Button
                    tone="quiet"
                    aria-label={`Duplicate ${projectSummary.name}`}
                    onClick={() =>
                      void attempt(() =>
                        call(`/api/projects/${projectSummary.id}/duplicate`, { method: 'POST', json: {} }),
                      )
                    }
                  >
                    Duplicate
                  </Button>
                  <Button
                    tone="quiet"
                    aria-label={`Delete ${projectSummary.name}`}
                    onClick={() => void remove(projectSummary)}
                  >
                    Delete
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {data && <DiskLine />}
      <Notices list={notices} onDismiss={dismiss} />
    </div>
  );
}

export function ProjectsView() {
  return (
    <QueryClientProvider client={queryClient}>
      <main>
        <Inside />
      </main>
    </QueryClientProvider>
  );
}
