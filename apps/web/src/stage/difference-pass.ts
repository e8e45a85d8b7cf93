import {
  type Camera,
  HalfFloatType,
  Mesh,
  OrthographicCamera,
  PlaneGeometry,
  Scene,
  ShaderMaterial,
  Vector2,
  type WebGLRenderer,
  WebGLRenderTarget,
} from 'three';

/** Draws two scenes and shows their difference: mid grey where equal, so many times the difference of the shown colours around it. */
export class DifferencePass {
  private readonly targets = [0, 1].map(() => new WebGLRenderTarget(1, 1, { type: HalfFloatType, samples: 4 }));
  private readonly material = new ShaderMaterial({
    uniforms: { a: { value: this.targets[0].texture }, b: { value: this.targets[1].texture }, gain: { value: 4 } },
    vertexShader: 'varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }',
    fragmentShader: `
      uniform sampler2D a;
      uniform sampler2D b;
      uniform float gain;
      varying vec2 at;
      vec3 shown(vec3 c) {
        c = clamp(c, 0.0, 1.0);
        return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
      }
      void main() {
        vec3 d = shown(texture2D(b, at).rgb) - shown(texture2D(a, at).rgb);
        gl_FragColor = vec4(clamp(0.498 + d * gain, 0.0, 1.0), 1.0);
      }`,
    depthTest: false,
  });
  private readonly quad = new Scene();
  private readonly camera = new OrthographicCamera();

  constructor() {
    this.quad.add(new Mesh(new PlaneGeometry(2, 2), this.material));
  }

  /** How many times the difference is shown. */
  set gain(gain: number) {
    this.material.uniforms.gain.value = gain;
  }

  render(renderer: WebGLRenderer, scenes: [Scene, Scene], camera: Camera): void {
    const size = renderer.getDrawingBufferSize(new Vector2());
    this.targets.forEach((target, i) => {
      target.setSize(size.x, size.y);
      renderer.setRenderTarget(target);
      renderer.clear();
      renderer.render(scenes[i], camera);
    });
    renderer.setRenderTarget(null);
    renderer.clear();
    renderer.render(this.quad, this.camera);
  }

  dispose(): void {
    for (const target of this.targets) target.dispose();
    this.material.dispose();
  }
}
