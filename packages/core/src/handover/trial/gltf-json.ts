/** What a trial load looks at in the JSON of a glTF file. Nothing of it is trusted. */
export interface GltfJson {
  scene?: number;
  scenes?: { nodes?: number[] }[];
  nodes?: {
    name?: string;
    mesh?: number;
    children?: number[];
    extensions?: {
      MSFT_lod?: { ids?: number[] };
      KHR_node_visibility?: { visible?: boolean };
      EXT_mesh_gpu_instancing?: { attributes?: Record<string, number> };
    };
  }[];
  meshes?: {
    primitives?: {
      material?: number;
      mode?: number;
      indices?: number;
      attributes?: Record<string, number>;
    }[];
  }[];
  materials?: { name?: string; [key: string]: unknown }[];
  textures?: {
    source?: number;
    sampler?: number;
    extensions?: { EXT_texture_webp?: { source?: number }; KHR_texture_basisu?: { source?: number } };
  }[];
  samplers?: unknown[];
  images?: { name?: string; uri?: string; bufferView?: number; mimeType?: string }[];
  buffers?: { uri?: string; byteLength?: number }[];
  bufferViews?: { buffer?: number; byteOffset?: number; byteLength?: number }[];
  accessors?: { count?: number }[];
}
