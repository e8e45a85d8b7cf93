import type { MapKind } from '@wembrel/core/decisions/map-kinds';

export const MAP_TITLES: Record<MapKind, string> = {
  normal: 'Normal',
  'object-normal': 'Object normal',
  ao: 'AO',
  curvature: 'Curvature',
  convex: 'Convex',
  concave: 'Concave',
  thickness: 'Thickness',
  height: 'Height',
  position: 'Position',
  id: 'ID',
  'vertex-color': 'Vertex colour',
  opacity: 'Opacity',
  color: 'Base colour',
  metallic: 'Metallic',
  roughness: 'Roughness',
  occlusion: 'Occlusion map',
  emissive: 'Emissive',
};
