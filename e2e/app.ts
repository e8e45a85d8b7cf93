import AxeBuilder from '@axe-core/playwright';
import { test as base, expect, type Locator, type Page } from '@playwright/test';
import { FULL } from '../packages/core/test/sampling.ts';
import { type Server, startServer } from './server.ts';

/** The application on a running server; a test fails when the page logs an error that it did not put into `quiet`. */
export const test = base.extend<{ quiet: string[] }, { server: Server }>({
  server: [
    // biome-ignore lint/correctness/noEmptyPattern: the test runner wants the pattern
    async ({}, use) => {
      const server = await startServer();
      await use(server);
      await server.stop();
    },
    { scope: 'worker' },
  ],
  quiet: [
    async ({ page }, use) => {
      const problems: string[] = [];
      const allowed: string[] = [];
      page.on('console', (consoleMessage) => {
        if (consoleMessage.type() === 'error') problems.push(consoleMessage.text());
      });
      page.on('pageerror', (error) => problems.push(String(error)));
      // The guide is for newcomers; its own test brings it back.
      await page.addInitScript(() => {
        if (location.protocol === 'http:' && !localStorage.getItem('wembrel-guide'))
          localStorage.setItem('wembrel-guide', 'off');
      });
      await use(allowed);
      expect(problems.filter((problem) => !allowed.some((a) => problem.includes(a)))).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

/**
 * Makes a project and opens its survey. Everything is merged onto one sheet of 2048 px until the test says otherwise. Finals are compared in small pictures, since
 * tests are about something else: it takes a sixteenth of the time.
 */
export async function newProject(page: Page, server: Server, name: string): Promise<string> {
  const made = await page.request.post(`${server.url}/api/projects`, {
    headers: { origin: server.url },
    data: { name },
  });
  const { id } = await made.json();
  await decide(page, server, id, 'Everything is merged', { mergeAll: true, compareAt: SMALL });
  await page.goto(`${server.url}/p/${id}/survey`);
  return id;
}

/** Has everything merged, whatever it gains; the plan is then not made for the files. */
export const mergeAll = (page: Page, server: Server, id: string): Promise<void> =>
  decide(page, server, id, 'Everything is merged', { mergeAll: true });

export async function goTo(page: Page, stage: string): Promise<void> {
  const link = page.getByRole('navigation', { name: 'Stages' }).getByRole('link', { name: stage });
  // What could be gained appears above the stages once it is known, and a click may then miss: people click again.
  await expect(async () => {
    await link.click();
    await expect(page.getByRole('heading', { level: 1, name: stage })).toBeVisible({ timeout: 8000 });
  }).toPass({ timeout: 30_000 });
}

/** Loads the page again once all that was changed on it is stored. */
export async function reloadSaved(page: Page): Promise<void> {
  await expect(page.locator('[data-unsaved="0"]')).toBeVisible();
  await page.reload();
}

/** A project as the server has it: its head, and what that names. */
export async function projectOf(page: Page, server: Server, id: string) {
  const get = async (path: string) => (await page.request.get(`${server.url}${path}`)).json();
  const head = await get(`/api/projects/${id}`);
  const [{ decisions }, sources, survey] = await Promise.all([
    get(`/api/projects/${id}/decisions`),
    get(`/api/projects/${id}/sources`),
    head.surveyJob ? get(`/api/jobs/${head.surveyJob}/files/survey.json`) : null,
  ]);
  return { ...head, decisions, sources, survey };
}

/** Slots by name and where they are routed. */
export const routesOf = (decisions: { routes: { slot: string; to: string }[] }): Record<string, string> =>
  Object.fromEntries(decisions.routes.map(({ slot, to }) => [slot, to]));

/** Side of pictures in which a final is compared, px: the smallest that there is. */
const SMALL = 256;

/** Has finals of a project compared in small pictures, where a test is about something else. */
export const compareSmall = (page: Page, server: Server, id: string): Promise<void> =>
  decide(page, server, id, 'Compared in small pictures', { compareAt: SMALL });

/** Changes decisions of a project without the page. */
export async function decide(page: Page, server: Server, id: string, label: string, values: object): Promise<void> {
  const at = `${server.url}/api/projects/${id}`;
  const { version } = await (await page.request.get(at)).json();
  const answer = await page.request.patch(`${at}/decisions`, {
    headers: { origin: server.url },
    data: {
      parent: version,
      label,
      patch: Object.entries(values).map(([key, value]) => ({ op: 'replace', path: `/${key}`, value })),
    },
  });
  expect(answer.ok()).toBe(true);
}

/** The picture of an element once it no longer changes: two shots in a row, 0.4 s apart, are the same. */
export async function steadyPicture(element: Locator): Promise<Buffer> {
  let last: Buffer = await element.screenshot();
  await expect
    .poll(
      async () => {
        const before = last;
        last = await element.screenshot();
        return Buffer.compare(before, last);
      },
      { timeout: 30_000, intervals: [400] },
    )
    .toBe(0);
  return last;
}

/** Waits until nothing on the page fades or slides any more; what moves without an end is not waited for. */
export async function motionOver(page: Page): Promise<void> {
  await page.evaluate(async () => {
    const endless = (animation: Animation) =>
      animation.effect?.getComputedTiming().endTime === Number.POSITIVE_INFINITY;
    const moving = document.getAnimations().filter((animation) => !endless(animation));
    await Promise.allSettled(moving.map((animation) => animation.finished));
  });
}

/**
 * What keeps people out: serious and critical faults of the page as it is, by rule and place. Themes differ in colours alone, so that in the dark one only contrast
 * is looked at, unless everything is tested.
 */
export async function accessFaults(page: Page): Promise<string[]> {
  const dark = await page.evaluate(() => document.documentElement.dataset.theme === 'dark');
  const axe = new AxeBuilder({ page });
  if (dark && !FULL) axe.withRules(['color-contrast']);
  const { violations } = await axe.analyze();
  const serious = violations.filter(({ impact }) => impact === 'serious' || impact === 'critical');
  return serious.map(({ id, nodes }) => `${id}: ${nodes[0].html.slice(0, 160)}`);
}
