import { type ExtensionProperty, type Material, Texture, TextureInfo } from '@gltf-transform/core';

/** Carried by the sheet's own material, each in its own way. */
const OWN = new Set(['KHR_materials_unlit', 'KHR_materials_emissive_strength']);

/**
 * Extensions whose factors a merged material carries, and the values at which they change nothing; reference, "Worth it". Those that depend on the frame of the
 * texture (anisotropy) or on the size of the mesh (volume) are none.
 */
const CARRIED: Record<string, Record<string, unknown>> = {
  KHR_materials_clearcoat: { clearcoatFactor: 0 },
  KHR_materials_diffuse_transmission: { diffuseTransmissionFactor: 0 },
  KHR_materials_dispersion: { dispersion: 0 },
  KHR_materials_ior: { IOR: 1.5 },
  KHR_materials_iridescence: { iridescenceFactor: 0 },
  KHR_materials_sheen: { sheenColorFactor: [0, 0, 0] },
  KHR_materials_specular: { specularFactor: 1, specularColorFactor: [1, 1, 1] },
  KHR_materials_transmission: { transmissionFactor: 0 },
};

export interface MaterialExtensions {
  /** Names of those that a sheet does not carry. */
  foreign: string[];
  /** Values of those that it carries as one text: materials whose texts agree may share. Empty where none changes anything. */
  carried: string;
}

/** What the extensions of a material come to. */
export function materialExtensions(material: Material): MaterialExtensions {
  const foreign: string[] = [];
  const carried: string[] = [];
  for (const extension of others(material)) {
    const name = extension.extensionName;
    const { values, textured } = valuesOf(extension);
    const neutral = CARRIED[name];
    if (neutral && !textured && hasValues(values, neutral)) continue;
    if (neutral && !textured) carried.push(`${name} ${JSON.stringify(values)}`);
    else foreign.push(name);
  }
  return { foreign: foreign.sort(), carried: carried.sort().join(' ') };
}

/** Gives a merged material the extensions that it carries of one of its sources. */
export function carryExtensions(from: Material, to: Material): void {
  for (const extension of others(from)) {
    const neutral = CARRIED[extension.extensionName];
    if (neutral && !hasValues(valuesOf(extension).values, neutral)) to.setExtension(extension.extensionName, extension);
  }
}

const others = (material: Material): ExtensionProperty[] =>
  material.listExtensions().filter((extension) => !OWN.has(extension.extensionName));

/** Numbers of an extension by name, and whether it has a texture. */
function valuesOf(extension: ExtensionProperty): { values: Record<string, unknown>; textured: boolean } {
  const values: Record<string, unknown> = {};
  let textured = false;
  for (const method of Object.getOwnPropertyNames(Object.getPrototypeOf(extension)).sort()) {
    if (!/^get[A-Z]/.test(method) || method === 'getDefaults') continue;
    const value = (extension as unknown as Record<string, () => unknown>)[method]();
    if (value instanceof Texture) textured = true;
    else if (typeof value === 'number' || Array.isArray(value)) {
      const name = method.slice(3);
      values[name === 'IOR' ? name : name[0].toLowerCase() + name.slice(1)] = value;
    } else if (value !== null && !(value instanceof TextureInfo)) textured = true;
  }
  return { values, textured };
}

const hasValues = (values: Record<string, unknown>, wanted: Record<string, unknown>): boolean =>
  Object.entries(wanted).every(([name, value]) => JSON.stringify(values[name]) === JSON.stringify(value));
