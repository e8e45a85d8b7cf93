import { QueryClientProvider, useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { ProjectSummary } from '../../contract/project.ts';
import { Button } from '../../ui/Button.tsx';
import { count } from '../../ui/format.ts';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { call, queryClient } from '../workbench/api.ts';
import css from './ProjectsView.module.css';

function Inside() {
  const { data, error } = useQuery({ queryKey: ['projects'], queryFn: () => call<ProjectSummary[]>('/api/projects') });
  const [name, setName] = useState('');
  const [problem, setProblem] = useState<string | null>(null);
  const open = async (make: Promise<{ id: string }>) => {
    try {
      window.location.href = `/p/${(await make).id}/survey`;
    } catch (e) {
      setProblem((e as Error).message);
    }
  };
  return (
    <div className={css.page}>
      <header className={css.head}>
        <h1>Projects</h1>
        <form
          className={css.form}
          onSubmit={(e) => {
            e.preventDefault();
            void open(call('/api/projects', { method: 'POST', json: { name } }));
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
          <Button onClick={() => void open(call('/api/demo', { method: 'POST', json: {} }))}>Open the demo</Button>
        </form>
      </header>
      {(problem ?? error?.message) && <ErrorLine>{problem ?? error?.message}</ErrorLine>}
      {data?.length === 0 && (
        <EmptyState title="No project yet">
          Create one and drop models into it, or open the demo: the furniture of a tram stop.
        </EmptyState>
      )}
      {data && data.length > 0 && (
        <table>
          <thead>
            <tr>
              <th>Project</th>
              <th>Files</th>
              <th>Changed</th>
            </tr>
          </thead>
          <tbody>
            {data.map((p) => (
              <tr key={p.id}>
                <td>
                  <a href={`/p/${p.id}/survey`}>{p.name}</a>
                </td>
                <td>{count(p.sources)}</td>
                <td>{new Date(p.changed).toLocaleString('en-GB', { dateStyle: 'medium', timeStyle: 'short' })}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
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
