import { createHash } from 'node:crypto';
import { readdir, readFile } from 'node:fs/promises';
import { isAbsolute, join, posix } from 'node:path';
import { InputError, sentence } from '@wembrel/core/errors';
import { countLoad, imageOf, type LoadCount } from '@wembrel/core/handover/trial/count';
import { materialProblems, type NamedMaterial, nameProblemsOf } from '@wembrel/core/handover/trial/names';
import { textureBytes } from '@wembrel/core/image/texture-memory';
import { decodeImage } from '../pictures/codec.ts';
import { imageKind } from '../pictures/kind.ts';
import { validateGltf } from '../write/validate.ts';
import { insideImage, type OpenedGltf, openGltf } from './open-gltf.ts';

interface TrialProblem {
  /** Below the folder of the delivery. */
  file: string;
  /** In one sentence, without the file. */
  text: string;
}

/** What one model of a delivery costs when it is loaded alone. */
interface TrialModel {
  file: string;
  drawCalls: number;
  triangles: number;
  materials: number;
  textures: number;
  /** On the GPU with mips, uncompressed; KTX2 as BC7. */
  gpuBytes: number;
}

/** What an engine meets that loads a delivery ("Handing over", Trial load). */
export interface TrialLoad {
  models: TrialModel[];
  drawCalls: number;
  triangles: number;
  /** In use, file by file. */
  materials: number;
  /** Different names of materials: what an importer that goes by names makes of them. */
  materialNames: number;
  /** In use; one that several models name counts once. */
  textures: number;
  gpuBytes: number;
  /** Files of the manifest whose contents were checked, and of how many; null without a manifest that lists them. */
  verified: { good: number; of: number } | null;
  problems: TrialProblem[];
}

export interface TrialOptions {
  onModel?: (share: number, file: string) => void;
  /** Called between files; throws to stop. */
  checkpoint?: () => void;
  /** Whether the open validator looks at each model as well; by default it does. */
  validate?: boolean;
}

/** An image of the delivery that was loaded. */
interface LoadedImage {
  bytes: number;
}

/**
 * Loads what was handed over as an engine would: from its folder alone, with no reader of ours. Every model, every image that it uses;
 * what is missing, unreadable or ambiguous is said.
 * @throws InputError where there is no such folder, or no model in it
 */
export async function trialLoad(folder: string, options: TrialOptions = {}): Promise<TrialLoad> {
  const files = await filesIn(folder);
  const models = files.filter((file) => /\.(glb|gltf)$/i.test(file));
  if (models.length === 0) throw new InputError(folder, 'there is no GLB or glTF in it');
  const manifest = files.includes('manifest.json') ? await manifestOf(folder) : {};
  const counted = manifest.models && new Set(manifest.models.map(({ file }) => String(file)));
  const run = new Run(folder, new Set(files), options.validate ?? true);
  for (const [i, file] of models.entries()) {
    options.checkpoint?.();
    options.onModel?.(i / models.length, file);
    // Copies in other formats are loaded, but a game takes one of them.
    await run.load(file, counted?.has(file) ?? true);
  }
  run.problems.push(...nameProblemsOf(files), ...materialProblems(run.materials));
  const verified = await verify(folder, manifest, new Set(files), run.problems);
  const sum = (key: 'drawCalls' | 'triangles' | 'materials') => run.models.reduce((all, model) => all + model[key], 0);
  return {
    models: run.models,
    drawCalls: sum('drawCalls'),
    triangles: sum('triangles'),
    materials: sum('materials'),
    materialNames: new Set(run.materials.map(({ name }) => name)).size,
    textures: run.images.size,
    gpuBytes: [...run.images.values()].reduce((all, image) => all + (image?.bytes ?? 0), 0),
    verified,
    problems: run.problems.sort((a, b) => (a.file < b.file ? -1 : a.file > b.file ? 1 : 0)),
  };
}

/** All files below a folder, with /, in their order. @throws InputError */
async function filesIn(folder: string): Promise<string[]> {
  const entries = await readdir(folder, { recursive: true, withFileTypes: true }).catch(() => {
    throw new InputError(folder, 'there is no such folder');
  });
  return entries
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(folder.length).replaceAll('\\', '/').replace(/^\/+/, ''))
    .sort();
}

/** One trial: what was loaded so far. */
class Run {
  readonly models: TrialModel[] = [];
  readonly materials: NamedMaterial[] = [];
  readonly problems: TrialProblem[] = [];
  /** By their files, or by model and position for those inside; null: could not be loaded. */
  readonly images = new Map<string, LoadedImage | null>();

  constructor(
    private readonly folder: string,
    private readonly files: ReadonlySet<string>,
    private readonly validated: boolean,
  ) {}

  /** @param counted it is one of the models, not a copy of one */
  async load(file: string, counted: boolean): Promise<void> {
    let opened: OpenedGltf;
    try {
      opened = await openGltf(join(this.folder, file));
    } catch (error) {
      this.problem(file, `cannot be loaded: ${sentence(error)}`);
      return;
    }
    if (this.validated) await this.validate(file);
    const { json } = opened;
    for (const { uri } of json.buffers ?? []) if (uri) this.target(file, uri, 'buffer');
    const count = countLoad(json);
    // Nobody draws those.
    if (count.collides) return;
    const keys = await this.loadImages(file, opened, count);
    if (count.drawCalls === 0) this.problem(file, 'draws nothing');
    if (!counted) return;
    for (const material of count.materials)
      this.materials.push({
        file,
        name: json.materials?.[material]?.name ?? '',
        content: contentOf(opened, material, keys),
      });
    this.models.push({
      file,
      drawCalls: count.drawCalls,
      triangles: count.triangles,
      materials: count.materials.length,
      textures: count.images.size,
      gpuBytes: [...new Set(keys.values())].reduce((all, key) => all + (this.images.get(key)?.bytes ?? 0), 0),
    });
  }

  private async validate(file: string): Promise<void> {
    const errors = await validateGltf(join(this.folder, file)).catch(noErrors);
    for (const { text } of errors.slice(0, 3)) this.problem(file, `is not valid glTF: ${text}`);
  }

  private problem(file: string, text: string): void {
    this.problems.push({ file, text });
  }

  /** File of the delivery that a model names; null where it is not there. */
  private target(model: string, uri: string, what: string): string | null {
    if (uri.startsWith('data:')) return null;
    let path = uri;
    try {
      path = decodeURIComponent(uri);
    } catch {
      // Taken as it stands.
    }
    const target = posix.normalize(posix.join(posix.dirname(model), path));
    const outside = target.startsWith('../') || isAbsolute(path) || /^[a-z][a-z0-9+.-]*:/i.test(path);
    if (outside) this.problem(model, `names a ${what} outside of its folder: ${uri}`);
    else if (this.files.has(target)) return target;
    else this.problem(model, `names a ${what} that is not there: ${uri}`);
    return null;
  }

  /** Loads the images that a model uses. @returns where each is kept, by its position */
  private async loadImages(file: string, opened: OpenedGltf, { images }: LoadCount): Promise<Map<number, string>> {
    const keys = new Map<number, string>();
    for (const [image, spaces] of images) {
      const { uri, name = uri ?? `image ${image + 1}` } = opened.json.images?.[image] ?? {};
      if (spaces.size > 1) this.problem(file, `reads the image "${name}" both as colours and as values`);
      const beside = uri && !uri.startsWith('data:') ? this.target(file, uri, 'texture') : null;
      if (uri && !uri.startsWith('data:') && beside === null) continue;
      const key = beside ?? `${file} ${image}`;
      keys.set(image, key);
      if (this.images.has(key)) continue;
      const bytes = beside ? new Uint8Array(await readFile(join(this.folder, beside))) : insideImage(opened, image);
      this.images.set(key, await this.decode(beside ?? file, name, bytes));
    }
    return keys;
  }

  private async decode(file: string, name: string, bytes: Uint8Array | null): Promise<LoadedImage | null> {
    if (!bytes) {
      this.problem(file, `the image "${name}" has no bytes`);
      return null;
    }
    try {
      const { width, height } = await decodeImage(file, name, bytes);
      const { rgba8, bc7 } = textureBytes(width, height);
      return { bytes: imageKind(bytes) === 'ktx2' ? bc7 : rgba8 };
    } catch (error) {
      this.problem(file, error instanceof InputError ? error.reason : sentence(error));
      return null;
    }
  }
}

const noErrors = () => [];

/** A material as text, its textures by the files that they lead to and how they are read. */
function contentOf({ json }: OpenedGltf, material: number, keys: ReadonlyMap<number, string>): string {
  const { name: _, ...rest } = json.materials?.[material] ?? {};
  const text = JSON.stringify(rest, (key, value) => {
    if (!key.endsWith('Texture') || typeof value?.index !== 'number') return value;
    const image = imageOf(json, value.index) ?? -1;
    const { sampler } = json.textures?.[value.index] ?? {};
    return { ...value, index: keys.get(image) ?? image, sampler: json.samplers?.[sampler ?? -1] ?? null };
  });
  return text;
}

/** What a trial takes from a manifest. */
interface TrialManifest {
  models?: { file?: unknown }[];
  files?: { file?: unknown; sha256?: unknown }[];
}

async function manifestOf(folder: string): Promise<TrialManifest> {
  try {
    const { models, files } = JSON.parse(await readFile(join(folder, 'manifest.json'), 'utf8')) as TrialManifest;
    return { models: Array.isArray(models) ? models : undefined, files: Array.isArray(files) ? files : undefined };
  } catch {
    return {};
  }
}

/** Holds the files that the manifest lists against its hashes; deliveries of earlier versions have no list. */
async function verify(
  folder: string,
  { files: listed }: TrialManifest,
  files: ReadonlySet<string>,
  problems: TrialProblem[],
): Promise<TrialLoad['verified']> {
  if (!listed) return null;
  let good = 0;
  for (const entry of listed) {
    const file = String(entry.file);
    if (!files.has(file)) problems.push({ file, text: 'is in the manifest, but not in the folder' });
    else if (
      createHash('sha256')
        .update(await readFile(join(folder, file)))
        .digest('hex') !== entry.sha256
    )
      problems.push({ file, text: 'is not the file that the manifest describes: its SHA-256 differs' });
    else good++;
  }
  return { good, of: listed.length };
}
