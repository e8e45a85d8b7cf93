import { SURE } from '../image/normal-direction.ts';
import { type TextureFormat, textureBytes } from '../image/texture-memory.ts';
import type { PictureFacts, SurveyFacts } from '../survey/facts.ts';
import { type Finding, few, several } from './finding.ts';

/** Slots that read a picture, by position. */
function readersOf(facts: SurveyFacts, key: string): number[] {
  return facts.slots.flatMap((slot, i) => (Object.values(slot.images).includes(key) ? [i] : []));
}

function size(p: { width: number; height: number }): string {
  return `${p.width} × ${p.height}`;
}

/** A picture at a smaller longest side, its shape kept. */
function shrunk(facts: PictureFacts, side: number): { width: number; height: number } {
  const k = Math.min(1, side / Math.max(facts.width, facts.height));
  return { width: Math.max(1, Math.round(facts.width * k)), height: Math.max(1, Math.round(facts.height * k)) };
}

const isPower = (v: number) => (v & (v - 1)) === 0;

/** Copies of one texture, and textures that hardly differ. */
export function duplicateTextures(facts: SurveyFacts, format: TextureFormat): Finding[] {
  const out: Finding[] = [];
  for (const picture of facts.pictures) {
    if (picture.copies < 2) continue;
    out.push({
      code: 'duplicate-textures',
      severity: 'warning',
      subject: picture.name,
      message: `${picture.copies} copies of "${picture.name}" (${size(picture)}) in ${picture.models} model${picture.models === 1 ? '' : 's'} hold the same pixels`,
      saves: { bytes: picture.bytes[format] * (picture.copies - 1) },
      objects: {
        pictures: [picture.key],
        models: [...new Set(picture.places.map((x) => x.model))],
        slots: readersOf(facts, picture.key),
      },
      action: { do: 'repair', label: 'Share one copy', repairs: { shareDuplicates: true } },
    });
  }
  const byKey = new Map(facts.pictures.map((picture) => [picture.key, picture]));
  // Each picture goes to one other at most, and one that goes takes nobody in.
  const gone = new Set<string>();
  const host = new Set<string>();
  for (const nearDuplicate of facts.nearDuplicates) {
    const [a, b] = [byKey.get(nearDuplicate.a), byKey.get(nearDuplicate.b)];
    if (!a || !b) continue;
    // The sharper one stays.
    const [stays, goes] = a.width * a.height >= b.width * b.height ? [a, b] : [b, a];
    if (gone.has(goes.key) || gone.has(stays.key) || host.has(goes.key)) continue;
    gone.add(goes.key);
    host.add(stays.key);
    const unit = a.sense === 'normal' ? '°' : a.sense === 'data' ? ' %' : ' ΔE';
    out.push({
      code: 'near-duplicate-textures',
      severity: 'info',
      subject: goes.name,
      message: `"${goes.name}" (${size(goes)}) is nearly "${stays.name}" (${size(stays)}): mean difference ${nearDuplicate.mean.toFixed(1)}${unit}, worst block ${nearDuplicate.worst.toFixed(1)}${unit}`,
      saves: { bytes: goes.bytes[format] * goes.copies },
      objects: {
        pictures: [goes.key, stays.key],
        slots: [...readersOf(facts, goes.key), ...readersOf(facts, stays.key)],
      },
      action: { do: 'repair', label: 'Share one copy', repairs: { shareNear: { [goes.key]: stays.key } } },
    });
  }
  return out;
}

/** Pictures that are larger than what they show, or of awkward sizes. */
export function textureSizes(facts: SurveyFacts, format: TextureFormat, target: number | null): Finding[] {
  const out: Finding[] = [];
  for (const picture of facts.pictures) {
    const slots = readersOf(facts, picture.key);
    const longest = Math.max(picture.width, picture.height);
    if (picture.nearlyFlat) {
      out.push({
        code: 'flat-texture',
        severity: 'warning',
        subject: picture.name,
        message: `"${picture.name}" (${size(picture)}) is one flat ${picture.colour ? 'colour' : 'value'}: a factor of the material says the same`,
        saves: { bytes: picture.bytes[format] * picture.copies },
        objects: { pictures: [picture.key], slots },
        action: { do: 'repair', label: 'Use a plain value', repairs: { flatToFactor: [picture.key] } },
      });
      continue;
    }
    // What it has, and what the density that is wanted can show of it; the smaller of the two is the suggestion.
    const wanted = wantedSide(facts, picture, slots, target);
    const useful = powerAtLeast(picture.usefulSide);
    const suggestion = Math.min(useful, wanted ?? Number.POSITIVE_INFINITY);
    if (suggestion <= longest / 2) {
      const small = shrunk(picture, suggestion);
      const byTarget = wanted !== null && wanted < useful;
      out.push({
        code: byTarget ? 'over-density' : 'oversized-texture',
        severity: 'warning',
        subject: picture.name,
        message: byTarget
          ? `"${picture.name}" (${size(picture)}) is sharper than the ${target} px/m that are wanted: ${size(small)} would do`
          : `"${picture.name}" is stored at ${size(picture)}, but its detail fits ${size(small)}`,
        saves: { bytes: (picture.bytes[format] - textureBytes(small.width, small.height)[format]) * picture.copies },
        objects: { pictures: [picture.key], slots },
        action: { do: 'repair', label: `Store at ${suggestion}`, repairs: { storeAt: { [picture.key]: suggestion } } },
      });
    }
    if (!isPower(picture.width) || !isPower(picture.height)) {
      const side = 2 ** Math.floor(Math.log2(longest));
      out.push({
        code: 'odd-size',
        severity: picture.width % 4 || picture.height % 4 ? 'warning' : 'info',
        subject: picture.name,
        message: `"${picture.name}" is ${size(picture)}, not a power of two${picture.width % 4 || picture.height % 4 ? ' nor a multiple of 4: block compression pads it' : ': its mips are uneven'}`,
        saves: {},
        objects: { pictures: [picture.key], slots },
        action:
          picture.width === picture.height
            ? { do: 'repair', label: `Store at ${side}`, repairs: { storeAt: { [picture.key]: side } } }
            : { do: 'go', label: 'Bake it onto a sheet', to: 'plan' },
      });
    }
  }
  return out;
}

const powerAtLeast = (v: number) => 2 ** Math.ceil(Math.log2(Math.max(1, v)));

/** Longest side at which its sharpest slot just has the wanted density; null without a target or a density. */
function wantedSide(
  facts: SurveyFacts,
  pictureFacts: PictureFacts,
  slots: number[],
  target: number | null,
): number | null {
  if (target === null) return null;
  let sharpest = Number.POSITIVE_INFINITY;
  for (const i of slots) {
    const density = facts.slots[i].density;
    if (!density) return null;
    // The 5 % lowest must still have it.
    sharpest = Math.min(sharpest, density.p5);
  }
  if (!Number.isFinite(sharpest) || sharpest <= 0) return null;
  return powerAtLeast((Math.max(pictureFacts.width, pictureFacts.height) * target) / sharpest);
}

/** Maps of one material whose sizes do not go together. */
export function unevenSizes(facts: SurveyFacts): Finding[] {
  const byKey = new Map(facts.pictures.map((picture) => [picture.key, picture]));
  const seen = new Set<string>();
  return facts.slots.flatMap((slot, i): Finding[] => {
    if (seen.has(slot.look)) return [];
    seen.add(slot.look);
    const maps = Object.entries(slot.images).flatMap(([channel, key]) => {
      const facts = byKey.get(key);
      return facts && !facts.nearlyFlat ? [{ channel, p: facts, side: Math.max(facts.width, facts.height) }] : [];
    });
    if (maps.length < 2) return [];
    const large = maps.reduce((a, map) => (map.side > a.side ? map : a));
    const small = maps.reduce((a, map) => (map.side < a.side ? map : a));
    if (large.side < small.side * 4) return [];
    return [
      {
        code: 'uneven-sizes',
        severity: 'info',
        subject: slot.name,
        message: `the maps of "${slot.name}" go from ${size(small.p)} ("${small.p.name}") to ${size(large.p)} ("${large.p.name}")`,
        saves: {},
        objects: { slots: [i], pictures: [small.p.key, large.p.key] },
        action: { do: 'go', label: 'Bake them onto one sheet', to: 'plan' },
      },
    ];
  });
}

/** Channels that are stored and never read. */
export function unusedChannels(facts: SurveyFacts, format: TextureFormat): Finding[] {
  const out: Finding[] = [];
  for (const picture of facts.pictures) {
    const slots = readersOf(facts, picture.key);
    if (slots.length === 0 || picture.flat) continue;
    const base = slots.filter((i) => facts.slots[i].images.baseColor === picture.key);
    const alphaRead = base.some((i) => facts.slots[i].alphaMode !== 'OPAQUE');
    const stored = picture.min[3] < 1;
    if (stored && !alphaRead)
      out.push({
        code: 'unused-channel',
        severity: 'info',
        subject: picture.name,
        message: `"${picture.name}" carries alpha that nothing reads; without it BC1 would do`,
        saves: format === 'bc7' ? { bytes: (picture.bytes.bc7 - picture.bytes.bc1) * picture.copies } : {},
        objects: { pictures: [picture.key], slots },
        action: { do: 'go', label: 'Bake it onto a sheet', to: 'plan' },
      });
    const only = slots.every(
      (i) => facts.slots[i].images.occlusion === picture.key && facts.slots[i].images.metallicRoughness !== picture.key,
    );
    if (only)
      out.push({
        code: 'unused-channel',
        severity: 'info',
        subject: picture.name,
        message: `"${picture.name}" is read for its red channel alone; packed with roughness and metallic it would cost nothing`,
        saves: { bytes: picture.bytes[format] * picture.copies },
        objects: { pictures: [picture.key], slots },
        action: { do: 'go', label: 'Bake it onto a sheet', to: 'plan' },
      });
  }
  return out;
}

/** Textures most of which no UV touches. */
export function emptyArea(facts: SurveyFacts, format: TextureFormat): Finding[] {
  return facts.pictures.flatMap((picture): Finding[] => {
    const slots = readersOf(facts, picture.key);
    if (slots.length === 0 || picture.nearlyFlat || picture.used >= 0.5) return [];
    // A palette is meant to have swatches to spare.
    if (slots.every((i) => facts.slots[i].uv && facts.slots[i].uv?.swatches === facts.slots[i].uv?.islands)) return [];
    return [
      {
        code: 'empty-area',
        severity: 'info',
        subject: picture.name,
        message: `UVs use ${Math.round(picture.used * 100)} % of "${picture.name}" (${size(picture)})`,
        saves: { bytes: Math.floor(picture.bytes[format] * (1 - picture.used)) * picture.copies },
        objects: { pictures: [picture.key], slots },
        action: { do: 'go', label: 'Repack onto a sheet', to: 'plan' },
      },
    ];
  });
}

/** Normal maps read the wrong way, and pictures whose colour space cannot be right. */
export function wrongReading(facts: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  const path = (pictureFacts: PictureFacts) => facts.models[pictureFacts.places[0]?.model]?.path;
  for (const picture of facts.pictures) {
    const slots = readersOf(facts, picture.key);
    const source = path(picture);
    if (picture.normals && !picture.nearlyFlat) {
      const [r, g] = picture.normals.middle;
      if (r > 165 && g > 165)
        out.push({
          code: 'encoded-normals',
          severity: 'fault',
          subject: picture.name,
          message: `"${picture.name}" looks like normals that were put through the sRGB curve: their middle is ${Math.round(r)} instead of 128`,
          saves: {},
          objects: { pictures: [picture.key], slots },
          action: { do: 'go', label: 'See where it came from', to: 'files' },
        });
      else if (picture.normals.crooked > 0.5)
        out.push({
          code: 'no-normals',
          severity: 'warning',
          subject: picture.name,
          message: `${Math.round(picture.normals.crooked * 100)} % of the texels of "${picture.name}" are no directions, though it is used as a normal map`,
          saves: {},
          objects: { pictures: [picture.key], slots },
          action: { do: 'go', label: 'See where it came from', to: 'files' },
        });
      else if (picture.normals.yUp < -SURE)
        out.push({
          code: 'normal-y-down',
          severity: 'fault',
          subject: picture.name,
          message: `"${picture.name}" holds normals with Y down, but is read with Y up: hollows will look like bumps`,
          saves: {},
          objects: { pictures: [picture.key], slots },
          action: source
            ? { do: 'read-as', label: 'Read with Y down', path: source, options: { normalY: 'down' } }
            : null,
        });
    }
    const asColour = slots.some(
      (i) => facts.slots[i].images.baseColor === picture.key || facts.slots[i].images.emissive === picture.key,
    );
    const asData = slots.some((i) => {
      const { metallicRoughness, normal, occlusion } = facts.slots[i].images;
      return metallicRoughness === picture.key || normal === picture.key || occlusion === picture.key;
    });
    if (asColour && asData && picture.colour)
      out.push({
        code: 'colour-and-data',
        severity: 'warning',
        subject: picture.name,
        message: `"${picture.name}" is read as colour (sRGB) and as data (linear); one of the two is wrong, and it takes memory twice`,
        saves: {},
        objects: { pictures: [picture.key], slots },
        action: { do: 'go', label: 'See its slots', to: 'files' },
      });
  }
  return out;
}

/** Textures that are missing, and ones that nothing reads. */
export function strayTextures(facts: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  facts.models.forEach((model, i) => {
    if (model.missing.length > 0)
      out.push({
        code: 'missing-texture',
        severity: 'fault',
        subject: model.path,
        message: `${model.path} names ${few(model.missing)}, which ${model.missing.length === 1 ? 'is' : 'are'} missing`,
        saves: {},
        objects: { models: [i] },
        action: { do: 'go', label: 'Add the files', to: 'files' },
      });
    if (model.unused.length > 0)
      out.push({
        code: 'unused-texture',
        severity: 'info',
        subject: model.path,
        message: `${model.path} carries ${few(model.unused)}, which no material reads`,
        saves: {},
        objects: { models: [i] },
        action: null,
        why: `${model.unused.length === 1 ? 'it is' : 'they are'} left out of what is handed over`,
      });
  });
  for (const error of facts.errors) {
    const missing = /^its image "(.*)" is missing$/.exec(error.message);
    if (missing)
      out.push({
        code: 'missing-texture',
        severity: 'fault',
        subject: error.path,
        message: `${error.path} names "${missing[1]}", which is missing; it is not read without it`,
        saves: {},
        objects: {},
        action: { do: 'go', label: 'Add the file', to: 'files' },
      });
  }
  const loose = facts.loose.filter((looseTexture) => looseTexture.reason !== null);
  if (loose.length > 0)
    out.push({
      code: 'unused-texture',
      severity: 'warning',
      subject: several(
        loose.map((looseTexture) => looseTexture.path),
        'texture',
        'textures',
      ),
      message: `${loose.length === 1 ? 'one loose texture goes' : `${loose.length} loose textures go`} to no slot: ${few(loose.map((looseTexture) => looseTexture.path))}`,
      saves: {},
      objects: {},
      action: { do: 'go', label: 'Set the name patterns', to: 'reading' },
    });
  return out;
}
