/** How each figure of the bill is found, as people can check it. */
export const BILL_FORMULAS = {
  drawCalls:
    'Sum over all objects as placed: one for each slot that the object uses. Copies drawn by instancing count once.',
  slots: 'Sum over all models: the materials that its parts use.',
  textureBytes:
    'Sum over all textures and their mips: width × height × 4 bytes uncompressed; compressed, blocks of 4 × 4 texels (rounded up) of 8 or 16 bytes. All mips together are a third more.',
  gpuVertices:
    'Different sets of position, normal, tangent, UVs, colour, joints and weights in each part. A UV border or a hard edge splits a vertex in two.',
  triangles: 'Sum over all objects as placed: their triangles.',
  density:
    'Texel density of a face = √(its area in texels ÷ its area in m²). 5 % of the surface has less than this figure.',
} as const;
