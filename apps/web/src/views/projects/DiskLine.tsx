import { useQuery, useQueryClient } from '@tanstack/react-query';
import type { DiskView } from '../../contract/project.ts';
import { call } from '../../project/call.ts';
import { NumberField } from '../../ui/Field.tsx';
import { bytes } from '../../ui/format.ts';
import css from './ProjectsView.module.css';

const KEY = ['disk'];
const GB = 1e9;

/** What all projects take on the disk, and how much their results may. */
export function DiskLine() {
  const client = useQueryClient();
  const { data } = useQuery({ queryKey: KEY, queryFn: () => call<DiskView>('/api/disk') });
  if (!data) return null;
  const set = async (bound: number) =>
    client.setQueryData(KEY, await call<DiskView>('/api/disk', { method: 'PUT', json: { bound } }));
  return (
    <footer className={css.disk}>
      <p>
        On the disk: sources {bytes(data.sources)}, what was found out about them {bytes(data.facts)}, results{' '}
        {bytes(data.results)}.
      </p>
      <NumberField
        label="Room for results"
        unit="GB"
        value={data.bound / GB}
        min={0.1}
        max={10_000}
        note="Beyond it those that were not used for longest go; the newest of each project always stay."
        onCommit={(value) => void set(value * GB)}
      />
    </footer>
  );
}
