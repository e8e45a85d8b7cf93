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
import css from './ProjectsView.module.css';

const KEY = ['projects'];

function Inside() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: KEY, queryFn: () => call<ProjectSummary[]>('/api/projects') });
  const notices = useNotices((n) => n.list);
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
  const remove = (p: ProjectSummary) =>
    attempt(async () => {
      await call(`/api/projects/${p.id}`, { method: 'DELETE', json: {} });
      notify({
        tone: 'plain',
        text: `${p.name} was deleted.`,
        action: {
          label: 'Undo',
          run: () => void attempt(() => call(`/api/projects/${p.id}/restore`, { method: 'POST', json: {} })),
        },
      });
    });
  const rename = (p: ProjectSummary, to: string) => {
    setRenaming(null);
    if (to.trim() !== '' && to.trim() !== p.name)
      void attempt(() => call(`/api/projects/${p.id}`, { method: 'PATCH', json: { name: to } }));
  };
  return (
    <div className={css.page}>
      <header className={css.head}>
        <p className={css.mark}>Wembrel</p>
        <h1>Projects</h1>
        <form
          className={css.form}
          onSubmit={(e) => {
            e.preventDefault();
            void open(() => call('/api/projects', { method: 'POST', json: { name } }));
          }}
        >
          <label htmlFor="name">New project</label>
          <input
            id="name"
            value={name}
            onChange={(e) => setName(e.target.value)}
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
              onChange={(e) => void open(() => call('/api/demo', { method: 'POST', json: { part: e.target.value } }))}
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
            {data.map((p) => (
              <tr key={p.id}>
                <td>
                  {renaming === p.id ? (
                    <input
                      className={css.rename}
                      aria-label={`New name of ${p.name}`}
                      defaultValue={p.name}
                      maxLength={80}
                      // biome-ignore lint/a11y/noAutofocus: the button that opens the field hands the focus on
                      autoFocus
                      onFocus={(e) => e.currentTarget.select()}
                      onBlur={(e) => rename(p, e.target.value)}
                      onKeyDown={(e) => {
                        if (e.key === 'Enter') rename(p, e.currentTarget.value);
                        if (e.key === 'Escape') setRenaming(null);
                      }}
                    />
                  ) : (
                    <a href={`/p/${p.id}/survey`}>{p.name}</a>
                  )}
                </td>
                <td>{count(p.sources)}</td>
                <td>{new Date(p.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}</td>
                <td className={css.acts}>
                  <Button tone="quiet" aria-label={`Rename ${p.name}`} onClick={() => setRenaming(p.id)}>
                    Rename
                  </Button>
                  <Button
                    tone="quiet"
                    aria-label={`Duplicate ${p.name}`}
                    onClick={() =>
                      void attempt(() => call(`/api/projects/${p.id}/duplicate`, { method: 'POST', json: {} }))
                    }
                  >
                    Duplicate
                  </Button>
                  <Button tone="quiet" aria-label={`Delete ${p.name}`} onClick={() => void remove(p)}>
                    Delete
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
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
