import type { Page } from '@playwright/test';
import { buildRails } from '@wembrel/demo/rails';
import { buildSigns } from '@wembrel/demo/signs';
import { kept } from '../../packages/demo/test/kept.ts';
import { expect, goTo, newProject, projectOf, reloadSaved, test } from '../app.ts';
import type { Server } from '../server.ts';

/** Sends a file as the button on Survey does. */
async function addFile(page: Page, name: string, bytes: Uint8Array) {
  await page
    .locator('input[type=file]')
    .first()
    .setInputFiles({ name, mimeType: 'model/gltf-binary', buffer: Buffer.from(bytes) });
}

async function decisions(page: Page, server: Server, project: string) {
  return (await projectOf(page, server, project)) as {
    decisions: {
      faces: {
        groups: { name: string; note: string; faces: Record<string, Record<string, string>> }[];
        edits: Record<string, unknown>[];
      };
    };
    survey: {
      slots: { name: string; model: number }[];
      models: { edited: { reports: { said: string; faults: string[] }[] } | null }[];
    } | null;
  };
}

test('faces are chosen, grouped and laid along a strip, by mouse and by keyboard; undo brings all back', async ({
  page,
  server,
}) => {
  const project = await newProject(page, server, 'Rails');
  await addFile(page, 'rails.glb', kept(buildRails));
  await expect(page.getByText('rails.glb').first()).toBeVisible();
  await goTo(page, 'UV layout');
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  await expect(page.getByText('84 faces')).toBeVisible();

  // Through the UVs: one island, then its neighbours on the surface.
  const uvs = page.getByRole('img', { name: /^UVs: HandrailSteel/ });
  await expect(uvs).toBeVisible();
  await page.getByRole('radio', { name: 'island' }).click();
  const box = await uvs.boundingBox();
  if (!box) throw new Error('the UVs are not there');
  await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
  await expect(page.getByText(/^2 faces, [\d.]+ m² selected$/)).toBeVisible();
  await page.getByRole('button', { name: 'Grow', exact: true }).click();
  // All sides of the bar but the one across.
  await expect(page.getByText(/^10 faces, .* selected$/)).toBeVisible();
  await page.getByRole('button', { name: 'Invert', exact: true }).click();
  await expect(page.getByText(/^74 faces, .* selected$/)).toBeVisible();
  await page.getByRole('button', { name: 'None', exact: true }).click();

  await page.getByRole('button', { name: 'Select the 84 faces in no group' }).click();
  await page.getByRole('button', { name: 'New from 84 faces' }).click();
  const name = page.getByLabel('Name of the group');
  await name.fill('Bars');
  await name.press('Enter');
  await expect(page.getByRole('button', { name: 'Bars', exact: true })).toBeVisible();
  await page.getByLabel('Note on Bars').fill('all go onto one strip');
  await page.getByRole('button', { name: 'Add for Bars' }).click();
  const line = page.getByRole('button', { name: /1\. Lay along a strip: Bars/ });
  await line.click();
  await page.getByLabel('Slot', { exact: true }).fill('BattenWood');
  await page.getByLabel('Slot', { exact: true }).press('Enter');
  await expect(page.getByText(/^42 pieces, 42 straightened/)).toBeVisible();
  await expect(page.getByRole('img', { name: /^UVs: BattenWood/ })).toBeVisible();

  // The server follows: one slot is left, and the plan knows it.
  await expect(async () => {
    const p = await decisions(page, server, project);
    expect(p.survey?.slots.map((slot) => slot.name)).toEqual(['BattenWood']);
    expect(p.survey?.models[0].edited?.reports[0]).toMatchObject({ faults: [] });
    expect(p.decisions.faces.groups[0]).toMatchObject({
      name: 'Bars',
      note: 'all go onto one strip',
      faces: { 'rails.glb': { 0: '0-23', 1: '0-11', 2: '0-47' } },
    });
  }).toPass({ timeout: 60_000 });

  // Off and on again by keyboard, then undone step by step, over a reload.
  const force = page.getByRole('checkbox', { name: /in force/ });
  await force.focus();
  await page.keyboard.press('Space');
  await expect(page.getByText(/^42 pieces/)).toBeHidden();
  await page.keyboard.press('Space');
  await expect(page.getByText(/^42 pieces, 42 straightened/)).toBeVisible();
  await reloadSaved(page);
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  await expect(page.getByText(/^42 pieces, 42 straightened/)).toBeVisible();
  for (let i = 0; i < 5; i++) await page.getByRole('button', { name: /^Undo/ }).click();
  await expect(page.getByText('Nothing yet. Sources stay as they are')).toBeVisible();
  await expect(async () => {
    const p = await decisions(page, server, project);
    expect(p.decisions.faces.edits).toEqual([]);
    expect(p.survey?.slots.map((slot) => slot.name).sort()).toEqual(['BattenWood', 'HandrailSteel', 'KerbStone']);
  }).toPass({ timeout: 60_000 });
});

test('a click in 3D takes a face, a piece, a slot; hidden faces are neither seen nor taken; a change that cannot be done says why', async ({
  page,
  server,
}) => {
  await newProject(page, server, 'Rails by hand');
  await addFile(page, 'rails.glb', kept(buildRails));
  await expect(page.getByText('rails.glb').first()).toBeVisible();
  await goTo(page, 'UV layout');
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  await expect(page.getByText('84 faces')).toBeVisible();
  const picture = page.locator('[data-loads="1"]');
  await expect(picture).toBeVisible();
  const box = await picture.boundingBox();
  if (!box) throw new Error('there is no 3D picture');
  const some = page.getByText(/^\d+ faces?, .* selected$/);
  /** Waits until the page has drawn what an event led to. */
  const drawn = () =>
    page.evaluate(async () => {
      for (let frame = 0; frame < 3; frame++) await new Promise(requestAnimationFrame);
    });
  /** Clicks down the middle of the picture until something is selected, and makes sure of the place by a second click. */
  const hit = async (): Promise<[number, number]> => {
    for (let y = 0.3; y < 0.9; y += 0.008) {
      const at: [number, number] = [box.x + box.width * 0.5, box.y + box.height * y];
      await page.mouse.click(...at);
      await drawn();
      if (!(await some.isVisible())) continue;
      await page.mouse.click(...at);
      await drawn();
      if (await some.isVisible()) return at;
    }
    throw new Error('nothing was hit');
  };
  const at = await hit();
  await expect(page.getByText(/^1 face, /)).toBeVisible();
  await page.getByRole('radio', { name: 'piece' }).click();
  await page.mouse.click(...at);
  await expect(page.getByText(/^12 faces, /)).toBeVisible();
  await page.getByRole('button', { name: 'Hide', exact: true }).click();
  await page.mouse.click(...at);
  await expect(page.getByText('nothing selected')).toBeVisible();
  await page.getByRole('button', { name: 'Show all' }).click();
  await page.getByRole('radio', { name: 'slot' }).click();
  await page.mouse.click(...at);
  const slot = await page.getByText(/^\d+ faces?, .* selected$/).textContent();
  expect(Number(slot?.split(' ')[0])).toBeGreaterThanOrEqual(12);
  for (const look of ['checker', 'density', 'stretch', 'own']) await page.getByLabel('Coloured by').selectOption(look);

  await page.getByRole('button', { name: /^New from/ }).click();
  await page.getByLabel('Kind of change').selectOption('relax');
  await page.getByRole('button', { name: /^Add for/ }).click();
  await page.getByRole('button', { name: /1\. Relax/ }).click();
  await page.getByLabel('UV set').selectOption('2');
  await expect(page.getByText(/have no UV set 2; unwrap or project them first/)).toBeVisible();
});

test('two signs get one palette: what their faces show is gathered over both, and a colour is replaced on both', async ({
  page,
  server,
}) => {
  const project = await newProject(page, server, 'Signs');
  const [one, two] = Object.entries(kept(buildSigns)).filter(([name]) => /bench-plate/.test(name));
  for (const [name, bytes] of [one, two]) {
    await addFile(page, name, bytes);
    await expect(page.getByText(name).first()).toBeVisible();
  }
  await goTo(page, 'UV layout');
  await page.getByRole('radio', { name: 'Faces of models' }).click();
  await page.getByRole('button', { name: /^Select the .+ faces? in no group/ }).click();
  await page.getByRole('button', { name: /^New from/ }).click();
  const slot = await page.getByLabel('Name of the group').inputValue();
  await page.getByLabel('Add all of a slot or part, in all models').selectOption(`slot ${slot}`);
  await page.getByLabel('Kind of change').selectOption('swatches');
  await page.getByRole('button', { name: /^Add for/ }).click();
  await page.getByRole('button', { name: /1\. Map to palette/ }).click();
  await page.getByRole('button', { name: 'Gather from the faces' }).click();
  const colours = page.getByLabel(/^Colour of .*, for faces that show/);
  await expect(colours.nth(1)).toBeVisible();
  await expect(page.getByText(/^2 models: \d+ faces on \d+ colours, off by ΔE 0\.0 at most/)).toBeVisible();
  /** Slots that both models have. */
  const shared = async () => {
    const slots = (await decisions(page, server, project)).survey?.slots ?? [];
    const of = (m: number) => slots.filter((x) => x.model === m && x.name !== slot).map((x) => x.name);
    return of(0).filter((name) => of(1).includes(name));
  };
  // What was gathered is there, and read: until then all faces have the one colour that the change began with.
  const settled = async () => {
    const { jobs } = await projectOf(page, server, project);
    const { edits } = (await decisions(page, server, project)).decisions.faces;
    const [{ swatches }] = edits as { swatches: unknown[] }[];
    return swatches.length > 1 && !jobs.some((j: { state: string }) => j.state === 'queued' || j.state === 'running');
  };
  await expect.poll(settled, { timeout: 60_000 }).toBe(true);
  await expect.poll(shared, { timeout: 60_000 }).toHaveLength(1);
  const [name] = await shared();
  const colour = page.getByLabel(new RegExp(`^Colour of ${name},`));
  await colour.fill('#12ab34');
  await colour.blur();
  await expect
    .poll(async () => JSON.stringify((await decisions(page, server, project)).decisions.faces.edits))
    .toContain(`"colour":"#12ab34"`);
  await expect.poll(settled, { timeout: 60_000 }).toBe(true);
  expect(await shared()).toEqual([name]);

  // Steps from dark to light around it; what the faces show is the middle one, so that nothing else changes.
  const many = await colours.count();
  await page.getByRole('button', { name, exact: true }).click();
  await page.getByRole('button', { name: 'Steps from dark to light' }).click();
  await expect(colours).toHaveCount(many + 4);
  await expect(page.getByLabel(new RegExp(`^Colour of ${name} −2,`))).not.toHaveValue('#12ab34');
  await expect(page.getByLabel(new RegExp(`^Colour of ${name},`))).toHaveValue('#12ab34');
  await expect(page.getByText(/^2 models: \d+ faces on \d+ colours, off by ΔE 0\.0 at most/)).toBeVisible();
  await page.getByRole('button', { name: 'Undo', exact: true }).click();
  await expect(colours).toHaveCount(many);
});
