import { Band, bandColumns, binBands } from './band.ts';
import { emptyPictures, projectScene, type RenderOptions, type View, type ViewPictures } from './project.ts';
import { PixelResolver } from './resolve.ts';
import { BAND } from './sample-rows.ts';
import type { DrawScene, TextureTable } from './scene.ts';
import { PointShader } from './shade.ts';
import { viewFrame } from './views.ts';

/**
 * The reference of `renderView`, which gives the same bytes: draws the scene from one direction: orthographic, each model fitted to its cell by the bounds, 4×4 coverage samples a pixel,
 * shaded once per pixel and triangle at the middle of the covered samples, trilinear textures. Alpha-tested faces are tested
 * at every sample; alpha-blended ones are laid over by nearness. Equal nearness goes to the earlier triangle.
 */
export function renderViewReference(
  scene: DrawScene,
  textures: TextureTable,
  view: View,
  { overGrey = true, truth = false, reader = 0 }: RenderOptions = {},
): ViewPictures {
  const { size } = view;
  const projected = projectScene(scene, view);
  const out = emptyPictures(size);
  const shader = new PointShader(textures, viewFrame(view.eye).toward, { finest: truth, reader });
  const resolver = new PixelResolver(projected, shader, out, { overGrey, everySample: truth });
  const band = new Band(size);
  binBands(projected, size).forEach((triangles, b) => {
    if (triangles.length === 0) return;
    band.begin(b * BAND, bandColumns(projected, triangles, size));
    const blended: [number, number][] = [];
    for (const [d, t] of triangles) {
      if (projected[d].draw.look.alphaMode === 'BLEND') blended.push([d, t]);
      else band.cover(projected[d], t, shader);
    }
    resolver.resolve(band, blended.length > 0 ? band.layers(projected, blended) : null);
  });
  return out;
}
