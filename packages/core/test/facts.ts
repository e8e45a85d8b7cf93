import { partsForGroups } from '../src/faces/group-faces.ts';
import { textureBytes } from '../src/image/texture-memory.ts';
import { objectFacts } from '../src/rays/pairing/object-facts.ts';
import type { Model } from '../src/scene/model.ts';
import type { PictureFacts, SurveyFacts } from '../src/survey/facts.ts';
import { fileFigures, type ImageTable, totals } from '../src/survey/figures.ts';
import { type Coverage, slotFacts } from '../src/survey/slot-facts.ts';
import { GRID } from '../src/survey/uv-facts.ts';
import { imageKeyOfName } from './build.ts';

/** What is said of a picture that exists by name only. */
export type Said = Partial<PictureFacts> & { side?: number };

/**
 * All facts of a survey of models built by hand; pictures are known by the names of their textures and look as they are said to. Two
 * textures with the same `key` are duplicates.
 */
export function factsOf(
  models: Model[],
  said: Record<string, Said> = {},
  more: Partial<SurveyFacts> = {},
): SurveyFacts {
  const pictures: PictureFacts[] = [];
  const table = new Map<string, { pixelKey: string; width: number; height: number; bits: 8 }>();
  const use = (name: string) => {
    const s = said[name] ?? {};
    const [width, height] = [s.width ?? s.side ?? 256, s.height ?? s.side ?? 256];
    table.set(name, { pixelKey: s.key ?? name, width, height, bits: 8 });
    return { s, width, height };
  };
  const coverage: Coverage = new Map();
  models.forEach((model, at) => {
    for (const texture of model.document.getRoot().listTextures()) {
      const name = texture.getName();
      const { s: said, width, height } = use(name);
      const read = texture
        .getGraph()
        .listParentEdges(texture)
        .map((edge) => edge.getName());
      if (read.every((r) => r === 'textures')) continue;
      const colour = read.some((r) => /baseColor|emissive/.test(r));
      const key = said.key ?? name;
      const known = pictures.find((picture) => picture.key === key && picture.colour === colour);
      if (known) {
        known.copies++;
        known.places.push({ model: at, name });
        continue;
      }
      pictures.push({
        key,
        name,
        width,
        height,
        bits: 8,
        colour,
        sense: colour ? 'colour' : read.includes('normalTexture') ? 'normal' : 'data',
        flat: false,
        nearlyFlat: false,
        bytes: textureBytes(width, height),
        copies: 1,
        models: 1,
        places: [{ model: at, name }],
        mean: [128, 128, 128],
        min: [0, 0, 0, 1],
        max: [1, 1, 1, 1],
        grey: false,
        usefulSide: Math.max(width, height),
        used: 1,
        normals: null,
        ...said,
      });
    }
  });
  const images: ImageTable = table;
  const sizes = (name: string) => {
    const { width, height } = table.get(name) ?? { width: 1, height: 1 };
    return { width, height, flat: false };
  };
  const slots = slotFacts(models, { sizes, pixelKey: (i) => table.get(i)?.pixelKey ?? i, coverage });
  for (const picture of pictures) {
    const grid = coverage.get(picture.key);
    if (grid && said[picture.name]?.used === undefined)
      picture.used = grid.reduce((sum, v) => sum + v, 0) / (GRID * GRID);
  }
  const figures = models.map((model) => ({ model, figures: fileFigures(model, images, imageKeyOfName) }));
  return {
    models: models.map((model, file) => ({
      path: model.path,
      file,
      format: model.format,
      span: 1,
      triangles: figures[file].figures.triangles,
      reduced: false,
      unused: model.document
        .getRoot()
        .listTextures()
        .filter((texture) => texture.listParents().every((parent) => parent.propertyType === 'Root'))
        .map((texture) => texture.getName()),
      missing: model.missing,
      sideFiles: [],
      slotSplits: 0,
      parts: partsForGroups(model).parts,
      bodies: objectFacts(model),
      edited: null,
      meshes: model.document
        .getRoot()
        .listMeshes()
        .map((x) => x.getName()),
    })),
    slots,
    pictures,
    nearDuplicates: [],
    loose: [],
    totals: totals(figures, 0, images, imageKeyOfName),
    errors: [],
    ...more,
  };
}
