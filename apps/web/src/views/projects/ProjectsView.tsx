import { QueryClientProvider, useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { ProjectSummary } from '../../contract/project.ts';
import { queryClient } from '../../project/api.ts';
import { call } from '../../project/call.ts';
import { dismiss, notify, useNotices } from '../../project/notices.ts';
import { Button } from '../../ui/Button.tsx';
import { EmptyState, ErrorLine } from '../../ui/Notice.tsx';
import { Notices } from '../../ui/Notices.tsx';
import { DiskLine } from './DiskLine.tsx';
import { ProjectRow } from './ProjectRow.tsx';
import css from './ProjectsView.module.css';
import { type Sample, Samples } from './Samples.tsx';

const KEY = ['projects'];

function Inside() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: KEY, queryFn: () => call<ProjectSummary[]>('/api/projects') });
  const notices = useNotices((notices) => notices.list);
  const [name, setName] = useState('');
  const [opening, setOpening] = useState<Sample | null>(null);

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
  const remove = (project: ProjectSummary) =>
    attempt(async () => {
      await call(`/api/projects/${project.id}`, { method: 'DELETE', json: {} });
      notify({
        tone: 'plain',
        text: `Deleted "${project.name}"`,
        action: {
          label: 'Undo',
          run: () => void attempt(() => call(`/api/projects/${project.id}/restore`, { method: 'POST', json: {} })),
        },
      });
    });
  const openSample = async (sample: Sample) => {
    setOpening(sample);
    await open(() => call('/api/demo', { method: 'POST', json: { part: sample } }));
    setOpening(null);
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
            placeholder="Project name"
            maxLength={80}
          />
          <Button tone="main" type="submit" disabled={name.trim() === ''}>
            Create
          </Button>
        </form>
      </header>
      {error && <ErrorLine>{error.message}</ErrorLine>}
      {data?.length === 0 && (
        <EmptyState title="No projects yet">Name one above and add your models to it, or open a sample.</EmptyState>
      )}
      {data && data.length > 0 && (
        <table className={css.ledger}>
          <thead>
            <tr>
              <th scope="col">Project</th>
              <th scope="col">Draw calls</th>
              <th scope="col">Texture memory</th>
              <th scope="col">State</th>
            </tr>
          </thead>
          <tbody>
            {data.map((project) => (
              <ProjectRow
                key={project.id}
                project={project}
                onRename={(to) =>
                  void attempt(() => call(`/api/projects/${project.id}`, { method: 'PATCH', json: { name: to } }))
                }
                onDuplicate={() =>
                  void attempt(() => call(`/api/projects/${project.id}/duplicate`, { method: 'POST', json: {} }))
                }
                onDelete={() => void remove(project)}
              />
            ))}
          </tbody>
        </table>
      )}
      <Samples opening={opening} onOpen={(sample) => void openSample(sample)} />
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
