import {
  type Camera,
  Color,
  Mesh,
  MeshBasicMaterial,
  OrthographicCamera,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
} from 'three';

/** Layer of the camera for what is outlined and not drawn itself. */
export const OUTLINED = 1;

/** Width of the outline in its colour, and with the light rim around it, px of the page. */
const WIDTH = 2;
const RIM = 3;

/** Draws a line around meshes, outside of them, so that no texel of theirs changes; also where something stands before them. */
export class OutlinePass {
  private readonly mask = new WebGLRenderTarget(1, 1, { depthBuffer: false });
  private readonly flat = new MeshBasicMaterial({ color: 0xffffff, side: 2, depthTest: false, depthWrite: false });
  private readonly material = new ShaderMaterial({
    uniforms: {
      mask: { value: this.mask.texture },
      step: { value: new Vector2() },
      colour: { value: new Color() },
    },
    vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    fragmentShader: `
      uniform sampler2D mask;
      uniform vec2 step;
      uniform vec3 colour;
      varying vec2 at;
      float near(float px) {
        float most = 0.0;
        for (int i = 0; i < 12; i++) {
          float a = float(i) * 0.5235988;
          most = max(most, texture2D(mask, at + px * step * vec2(cos(a), sin(a))).r);
        }
        return most;
      }
      void main() {
        if (texture2D(mask, at).r > 0.5) discard;
        if (near(${WIDTH}.0) > 0.5) gl_FragColor = vec4(colour, 1.0);
        else if (near(${RIM}.0) > 0.5) gl_FragColor = vec4(1.0, 1.0, 1.0, 0.75);
        else discard;
        #include <colorspace_fragment>
      }`,
    transparent: true,
    depthTest: false,
  });
  private readonly quad = new Scene();
  private readonly camera = new OrthographicCamera();
  private readonly drawn = new Vector2();

  constructor() {
    this.quad.add(new Mesh(new PlaneGeometry(2, 2), this.material));
  }

  /** Linear. */
  set colour(colour: Color) {
    this.material.uniforms.colour.value.copy(colour);
  }

  /** Draws the outlines of what a scene has on the layer `OUTLINED`, over the picture that is there. */
  render(renderer: WebGLRenderer, scene: Scene, camera: Camera): void {
    const size = renderer.getDrawingBufferSize(this.drawn);
    this.mask.setSize(size.x, size.y);
    const ratio = renderer.getPixelRatio();
    this.material.uniforms.step.value.set(ratio / size.x, ratio / size.y);
    const { background } = scene;
    const clear = renderer.getClearColor(new Color());
    scene.background = null;
    scene.overrideMaterial = this.flat;
    camera.layers.set(OUTLINED);
    renderer.setRenderTarget(this.mask);
    renderer.setClearColor(0x000000, 1);
    renderer.clear();
    renderer.render(scene, camera);
    renderer.setRenderTarget(null);
    renderer.setClearColor(clear, 1);
    camera.layers.set(0);
    scene.overrideMaterial = null;
    scene.background = background;
    renderer.render(this.quad, this.camera);
  }

  dispose(): void {
    this.mask.dispose();
    this.flat.dispose();
    this.material.dispose();
  }
}
