import { SURE } from '../image/normal-direction.ts';
import type { PictureFacts, SurveyFacts } from '../survey/facts.ts';
import { type TextureFormat, textureBytes } from '../survey/texture-memory.ts';
import { type Finding, few, several } from './finding.ts';

/** Slots that read a picture, by position. */
function readersOf(s: SurveyFacts, key: string): number[] {
  return s.slots.flatMap((slot, i) => (Object.values(slot.images).includes(key) ? [i] : []));
}

function size(p: { width: number; height: number }): string {
  return `${p.width} × ${p.height}`;
}

/** A picture at a smaller longest side, its shape kept. */
function shrunk(p: PictureFacts, side: number): { width: number; height: number } {
  const k = Math.min(1, side / Math.max(p.width, p.height));
  return { width: Math.max(1, Math.round(p.width * k)), height: Math.max(1, Math.round(p.height * k)) };
}

const isPower = (v: number) => (v & (v - 1)) === 0;

/** Copies of one texture, and textures that hardly differ. */
export function duplicateTextures(s: SurveyFacts, format: TextureFormat): Finding[] {
  const out: Finding[] = [];
  for (const p of s.pictures) {
    if (p.copies < 2) continue;
    out.push({
      code: 'twin-textures',
      severity: 'warning',
      subject: p.name,
      message: `${p.copies} copies of "${p.name}" (${size(p)}) in ${p.models} model${p.models === 1 ? '' : 's'} hold the same pixels`,
      saves: { bytes: p.bytes[format] * (p.copies - 1) },
      objects: { pictures: [p.key], models: [...new Set(p.places.map((x) => x.model))], slots: readersOf(s, p.key) },
      action: { do: 'repair', label: 'Share one copy', repairs: { shareTwins: true } },
    });
  }
  const byKey = new Map(s.pictures.map((p) => [p.key, p]));
  // Each picture goes to one other at most, and one that goes takes nobody in.
  const gone = new Set<string>();
  const host = new Set<string>();
  for (const n of s.nearTwins) {
    const [a, b] = [byKey.get(n.a), byKey.get(n.b)];
    if (!a || !b) continue;
    // The sharper one stays.
    const [stays, goes] = a.width * a.height >= b.width * b.height ? [a, b] : [b, a];
    if (gone.has(goes.key) || gone.has(stays.key) || host.has(goes.key)) continue;
    gone.add(goes.key);
    host.add(stays.key);
    const unit = a.sense === 'normal' ? '°' : a.sense === 'data' ? ' %' : ' ΔE';
    out.push({
      code: 'near-twin-textures',
      severity: 'info',
      subject: goes.name,
      message: `"${goes.name}" (${size(goes)}) is nearly "${stays.name}" (${size(stays)}): mean difference ${n.mean.toFixed(1)}${unit}, worst block ${n.worst.toFixed(1)}${unit}`,
      saves: { bytes: goes.bytes[format] * goes.copies },
      objects: { pictures: [goes.key, stays.key], slots: [...readersOf(s, goes.key), ...readersOf(s, stays.key)] },
      action: { do: 'repair', label: 'Share one copy', repairs: { shareNear: { [goes.key]: stays.key } } },
    });
  }
  return out;
}

/** Pictures that are larger than what they show, or of awkward sizes. */
export function textureSizes(s: SurveyFacts, format: TextureFormat, target: number | null): Finding[] {
  const out: Finding[] = [];
  for (const p of s.pictures) {
    const slots = readersOf(s, p.key);
    const longest = Math.max(p.width, p.height);
    if (p.nearlyFlat) {
      out.push({
        code: 'flat-texture',
        severity: 'warning',
        subject: p.name,
        message: `"${p.name}" (${size(p)}) is one flat ${p.colour ? 'colour' : 'value'}: a factor of the material says the same`,
        saves: { bytes: p.bytes[format] * p.copies },
        objects: { pictures: [p.key], slots },
        action: { do: 'repair', label: 'Use a plain value', repairs: { flatToFactor: [p.key] } },
      });
      continue;
    }
    // What it has, and what the density that is wanted can show of it; the smaller of the two is the suggestion.
    const wanted = wantedSide(s, p, slots, target);
    const useful = powerAtLeast(p.usefulSide);
    const suggestion = Math.min(useful, wanted ?? Number.POSITIVE_INFINITY);
    if (suggestion <= longest / 2) {
      const small = shrunk(p, suggestion);
      const byTarget = wanted !== null && wanted < useful;
      out.push({
        code: byTarget ? 'over-density' : 'oversized-texture',
        severity: 'warning',
        subject: p.name,
        message: byTarget
          ? `"${p.name}" (${size(p)}) is sharper than the ${target} px/m that are wanted: ${size(small)} would do`
          : `"${p.name}" is stored at ${size(p)}, but shows no more than ${size(small)} would`,
        saves: { bytes: (p.bytes[format] - textureBytes(small.width, small.height)[format]) * p.copies },
        objects: { pictures: [p.key], slots },
        action: { do: 'repair', label: `Store at ${suggestion}`, repairs: { storeAt: { [p.key]: suggestion } } },
      });
    }
    if (!isPower(p.width) || !isPower(p.height)) {
      const side = 2 ** Math.floor(Math.log2(longest));
      out.push({
        code: 'odd-size',
        severity: p.width % 4 || p.height % 4 ? 'warning' : 'info',
        subject: p.name,
        message: `"${p.name}" is ${size(p)}, not a power of two${p.width % 4 || p.height % 4 ? ' nor a multiple of 4: block compression pads it' : ': its mips are uneven'}`,
        saves: {},
        objects: { pictures: [p.key], slots },
        action:
          p.width === p.height
            ? { do: 'repair', label: `Store at ${side}`, repairs: { storeAt: { [p.key]: side } } }
            : { do: 'go', label: 'Bake it onto a sheet', to: 'plan' },
      });
    }
  }
  return out;
}

const powerAtLeast = (v: number) => 2 ** Math.ceil(Math.log2(Math.max(1, v)));

/** Longest side at which its sharpest slot just has the wanted density; null without a target or a density. */
function wantedSide(s: SurveyFacts, p: PictureFacts, slots: number[], target: number | null): number | null {
  if (target === null) return null;
  let sharpest = Number.POSITIVE_INFINITY;
  for (const i of slots) {
    const d = s.slots[i].density;
    if (!d) return null;
    // The 5 % lowest must still have it.
    sharpest = Math.min(sharpest, d.p5);
  }
  if (!Number.isFinite(sharpest) || sharpest <= 0) return null;
  return powerAtLeast((Math.max(p.width, p.height) * target) / sharpest);
}

/** Maps of one material whose sizes do not go together. */
export function unevenSizes(s: SurveyFacts): Finding[] {
  const byKey = new Map(s.pictures.map((p) => [p.key, p]));
  const seen = new Set<string>();
  return s.slots.flatMap((slot, i): Finding[] => {
    if (seen.has(slot.look)) return [];
    seen.add(slot.look);
    const maps = Object.entries(slot.images).flatMap(([channel, key]) => {
      const p = byKey.get(key);
      return p && !p.nearlyFlat ? [{ channel, p, side: Math.max(p.width, p.height) }] : [];
    });
    if (maps.length < 2) return [];
    const large = maps.reduce((a, b) => (b.side > a.side ? b : a));
    const small = maps.reduce((a, b) => (b.side < a.side ? b : a));
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
export function unusedChannels(s: SurveyFacts, format: TextureFormat): Finding[] {
  const out: Finding[] = [];
  for (const p of s.pictures) {
    const slots = readersOf(s, p.key);
    if (slots.length === 0 || p.flat) continue;
    const base = slots.filter((i) => s.slots[i].images.baseColor === p.key);
    const alphaRead = base.some((i) => s.slots[i].alphaMode !== 'OPAQUE');
    const stored = p.min[3] < 1;
    if (stored && !alphaRead)
      out.push({
        code: 'unused-channel',
        severity: 'info',
        subject: p.name,
        message: `"${p.name}" carries alpha that nothing reads; without it BC1 would do`,
        saves: format === 'bc7' ? { bytes: (p.bytes.bc7 - p.bytes.bc1) * p.copies } : {},
        objects: { pictures: [p.key], slots },
        action: { do: 'go', label: 'Bake it onto a sheet', to: 'plan' },
      });
    const only = slots.every(
      (i) => s.slots[i].images.occlusion === p.key && s.slots[i].images.metallicRoughness !== p.key,
    );
    if (only)
      out.push({
        code: 'unused-channel',
        severity: 'info',
        subject: p.name,
        message: `"${p.name}" is read for its red channel alone; packed with roughness and metallic it would cost nothing`,
        saves: { bytes: p.bytes[format] * p.copies },
        objects: { pictures: [p.key], slots },
        action: { do: 'go', label: 'Bake it onto a sheet', to: 'plan' },
      });
  }
  return out;
}

/** Textures most of which no UV touches. */
export function emptyArea(s: SurveyFacts, format: TextureFormat): Finding[] {
  return s.pictures.flatMap((p): Finding[] => {
    const slots = readersOf(s, p.key);
    if (slots.length === 0 || p.nearlyFlat || p.used >= 0.5) return [];
    // A palette is meant to have swatches to spare.
    if (slots.every((i) => s.slots[i].uv && s.slots[i].uv?.swatches === s.slots[i].uv?.islands)) return [];
    return [
      {
        code: 'empty-area',
        severity: 'info',
        subject: p.name,
        message: `UVs use ${Math.round(p.used * 100)} % of "${p.name}" (${size(p)})`,
        saves: { bytes: Math.floor(p.bytes[format] * (1 - p.used)) * p.copies },
        objects: { pictures: [p.key], slots },
        action: { do: 'go', label: 'Repack onto a sheet', to: 'plan' },
      },
    ];
  });
}

/** Normal maps read the wrong way, and pictures whose colour space cannot be right. */
export function wrongReading(s: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  const path = (p: PictureFacts) => s.models[p.places[0]?.model]?.path;
  for (const p of s.pictures) {
    const slots = readersOf(s, p.key);
    const source = path(p);
    if (p.normals && !p.nearlyFlat) {
      const [r, g] = p.normals.middle;
      if (r > 165 && g > 165)
        out.push({
          code: 'encoded-normals',
          severity: 'fault',
          subject: p.name,
          message: `"${p.name}" looks like normals that were put through the sRGB curve: their middle is ${Math.round(r)} instead of 128`,
          saves: {},
          objects: { pictures: [p.key], slots },
          action: { do: 'go', label: 'See where it came from', to: 'files' },
        });
      else if (p.normals.crooked > 0.5)
        out.push({
          code: 'no-normals',
          severity: 'warning',
          subject: p.name,
          message: `${Math.round(p.normals.crooked * 100)} % of the texels of "${p.name}" are no directions, though it is used as a normal map`,
          saves: {},
          objects: { pictures: [p.key], slots },
          action: { do: 'go', label: 'See where it came from', to: 'files' },
        });
      else if (p.normals.yUp < -SURE)
        out.push({
          code: 'normal-y-down',
          severity: 'fault',
          subject: p.name,
          message: `"${p.name}" holds normals with Y down, but is read with Y up: hollows will look like bumps`,
          saves: {},
          objects: { pictures: [p.key], slots },
          action: source
            ? { do: 'read-as', label: 'Read with Y down', path: source, options: { normalY: 'down' } }
            : null,
        });
    }
    const asColour = slots.some((i) => s.slots[i].images.baseColor === p.key || s.slots[i].images.emissive === p.key);
    const asData = slots.some((i) => {
      const { metallicRoughness, normal, occlusion } = s.slots[i].images;
      return metallicRoughness === p.key || normal === p.key || occlusion === p.key;
    });
    if (asColour && asData && p.colour)
      out.push({
        code: 'colour-and-data',
        severity: 'warning',
        subject: p.name,
        message: `"${p.name}" is read as colour (sRGB) and as data (linear); one of the two is wrong, and it takes memory twice`,
        saves: {},
        objects: { pictures: [p.key], slots },
        action: { do: 'go', label: 'See its slots', to: 'files' },
      });
  }
  return out;
}

/** Textures that are missing, and ones that nothing reads. */
export function strayTextures(s: SurveyFacts): Finding[] {
  const out: Finding[] = [];
  s.models.forEach((m, i) => {
    if (m.missing.length > 0)
      out.push({
        code: 'missing-texture',
        severity: 'fault',
        subject: m.path,
        message: `${m.path} names ${few(m.missing)}, which ${m.missing.length === 1 ? 'is' : 'are'} not there`,
        saves: {},
        objects: { models: [i] },
        action: { do: 'go', label: 'Add the files', to: 'files' },
      });
    if (m.unused.length > 0)
      out.push({
        code: 'unused-texture',
        severity: 'info',
        subject: m.path,
        message: `${m.path} carries ${few(m.unused)}, which no material reads; ${m.unused.length === 1 ? 'it is' : 'they are'} left out of what is handed over`,
        saves: {},
        objects: { models: [i] },
        action: null,
      });
  });
  for (const e of s.errors) {
    const missing = /^its image "(.*)" is missing$/.exec(e.message);
    if (missing)
      out.push({
        code: 'missing-texture',
        severity: 'fault',
        subject: e.path,
        message: `${e.path} names "${missing[1]}", which is not there; it is not read without it`,
        saves: {},
        objects: {},
        action: { do: 'go', label: 'Add the file', to: 'files' },
      });
  }
  const loose = s.loose.filter((l) => l.reason !== null);
  if (loose.length > 0)
    out.push({
      code: 'unused-texture',
      severity: 'warning',
      subject: several(
        loose.map((l) => l.path),
        'texture',
        'textures',
      ),
      message: `${loose.length === 1 ? 'one loose texture goes' : `${loose.length} loose textures go`} to no slot: ${few(loose.map((l) => l.path))}`,
      saves: {},
      objects: {},
      action: { do: 'go', label: 'Set the name patterns', to: 'reading' },
    });
  return out;
}
