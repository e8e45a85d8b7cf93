import type { Page } from '@playwright/test';
import { sign } from '@wembrel/demo/broken';
import type { JobView, ProjectHead } from '../../apps/web/src/contract/project.ts';
import { VIEW_TITLES, VIEWS, type ViewName } from '../../apps/web/src/project/stages.ts';
import { type Missing, missingText } from '../../apps/web/src/project/view-state.ts';
import { expect, newProject, test } from '../app.ts';

const job = (kind: JobView['kind'], state: JobView['state'], head: ProjectHead): JobView => ({
  id: `state-${kind}-${state}`,
  kind,
  sheet: null,
  region: null,
  state,
  paused: false,
  comparing: false,
  share: 0.4,
  doing: 'reading sign.glb',
  left: null,
  message: state === 'failed' ? 'sign.glb: its buffer ends too early.' : null,
  madeFrom: head.stamp,
  finished: null,
});

/** How the head of a project looks in a state, and what each view says then; null: it shows what it has. */
const STATES: Record<
  string,
  { head: (head: ProjectHead) => Partial<ProjectHead>; missing: (view: ViewName) => Missing | null }
> = {
  'no file': {
    head: () => ({ sourcesStamp: 'none', surveyJob: null, jobs: [] }),
    missing: (view) => (view === 'survey' ? null : 'empty'),
  },
  'files that are being read': {
    head: (head) => ({ surveyJob: null, jobs: [job('survey', 'running', head)] }),
    missing: (view) => (view === 'survey' ? null : 'reading'),
  },
  'files that could not be read': {
    head: (head) => ({ surveyJob: null, jobs: [job('survey', 'failed', head)] }),
    missing: () => 'unread',
  },
  'nothing baked': { head: () => ({}), missing: (view) => (needsResult(view) ? 'unbaked' : null) },
  'a first bake under way': {
    head: (head) => ({ jobs: [job('final', 'running', head), ...head.jobs] }),
    missing: (view) => (needsResult(view) ? 'baking' : null),
  },
  'a bake that failed': {
    head: (head) => ({ jobs: [job('proof', 'failed', head), ...head.jobs] }),
    missing: (view) => (needsResult(view) ? 'failed' : null),
  },
  'a bake that was cancelled': {
    head: (head) => ({ jobs: [job('proof', 'cancelled', head), ...head.jobs] }),
    missing: (view) => (needsResult(view) ? 'cancelled' : null),
  },
};

/** Buttons that lead out of a state. */
const WAYS_ON = /^(Go to Survey|Read the files again|Bake a proof|Bake the final)$/;

const needsResult = (view: ViewName) => view === 'bake' || view === 'compare' || view === 'handover';

/** Serves the project as if it were in a state. */
async function pretend(page: Page, id: string, head: (head: ProjectHead) => Partial<ProjectHead>): Promise<void> {
  await page.unrouteAll();
  await page.route(`**/api/projects/${id}`, async (route) => {
    const real = (await (await route.fetch()).json()) as ProjectHead;
    await route.fulfill({ json: { ...real, ...head(real) } });
  });
  await page.route(`**/api/projects/${id}/sources`, async (route) => {
    const { sourcesStamp } = head({ jobs: [] as JobView[] } as ProjectHead);
    if (sourcesStamp === 'none') await route.fulfill({ json: [] });
    else await route.continue();
  });
}

test('no view claims what is not so: empty, reading, unread, baking, failed, cancelled, without a connection', async ({
  page,
  server,
  quiet,
}) => {
  test.setTimeout(240_000);
  const id = await newProject(page, server, 'States');
  await page
    .getByTestId('files')
    .setInputFiles({ name: 'sign.glb', mimeType: 'model/gltf-binary', buffer: Buffer.from(sign().glb()) });
  await expect(page.getByRole('row').filter({ hasText: 'sign.glb' }).first()).toBeVisible({ timeout: 60_000 });
  const main = page.getByRole('main');
  for (const [name, { head, missing }] of Object.entries(STATES)) {
    await pretend(page, id, head);
    await page.goto(`${server.url}/p/${id}/survey`);
    // Keys count once the page is alive.
    await expect(page.getByRole('heading', { level: 1, name: 'Survey' })).toBeVisible();
    for (const [i, view] of VIEWS.entries()) {
      const what = missing(view);
      if (what === null) continue;
      await page.keyboard.press(`Alt+${i + 1}`);
      await expect(page.getByRole('heading', { level: 1, name: VIEW_TITLES[view] }), name).toBeVisible();
      const { title, way } = missingText(view, what);
      await expect(main.getByText(title, { exact: true }), `${name}, ${view}`).toBeVisible();
      // One button leads on; while it works, none starts the same again.
      const own = main.getByRole('heading', { name: title, exact: true }).locator('..');
      await expect(own.getByRole('button', { name: WAYS_ON }), `${name}, ${view}`).toHaveCount(way ? 1 : 0);
      if (what === 'reading' || what === 'baking')
        await expect(main, `${name}, ${view}`).not.toContainText(
          /Nothing|No slot|not found|all merged|Bake a proof first/,
        );
    }
  }

  await test.step('without a connection it says so', async () => {
    await page.unrouteAll();
    quiet.push('net::ERR', 'Failed to load');
    await page.route(`**/api/projects/${id}/events`, (route) => route.abort());
    await page.goto(`${server.url}/p/${id}/survey`);
    await expect(page.getByText(/^No connection to Wembrel/)).toBeVisible();
  });
});
