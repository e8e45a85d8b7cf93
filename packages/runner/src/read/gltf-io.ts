/// <reference path="../draco3dgltf.d.ts" />
import { NodeIO } from '@gltf-transform/core';
import { ALL_EXTENSIONS } from '@gltf-transform/extensions';
import { LevelsOfDetail } from '@wembrel/core/scene/levels-of-detail';
import draco from 'draco3dgltf';
import { MeshoptDecoder } from 'meshoptimizer/decoder';

let dracoDecoder: Promise<unknown> | null = null;

/** A reader and writer with every extension that Wembrel knows. */
export async function gltfIo(): Promise<NodeIO> {
  await MeshoptDecoder.ready;
  dracoDecoder ??= draco.createDecoderModule();
  return new NodeIO()
    .registerExtensions([...ALL_EXTENSIONS, LevelsOfDetail])
    .registerDependencies({ 'meshopt.decoder': MeshoptDecoder, 'draco3d.decoder': await dracoDecoder })
    .setLogger({ debug() {}, info() {}, warn() {}, error() {} } as never);
}
