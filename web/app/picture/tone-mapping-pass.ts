import * as THREE from 'three';
import { TONE_GLSL } from '../../../core/image/tone';
import { balanceMatrix, type WhiteBalance } from '../../../core/image/white-balance';
import { SKY_GLSL, type SkyLight } from './sky-light';

/** Share of the full resolution drawn while the camera moves, and edge samples at rest; less where no GPU helps. */
const EFFORT = {
  gpu: { movingScale: 0.75, restingScale: 1, samples: 4 },
  software: { movingScale: 0.4, restingScale: 0.7, samples: 0 },
} as const;

/**
 * Draws the scene to a floating-point target and develops it: sky behind, contact darkening from the depths, white balance
 * and tone curve that the kernel's picture and the print share, sRGB.
 */
export class ToneMappingPass {
  private target: THREE.WebGLRenderTarget | undefined;
  private moving = false;
  private readonly screen = new THREE.Scene();
  private readonly flat = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly material = new THREE.ShaderMaterial({
    depthTest: false,
    depthWrite: false,
    uniforms: {
      picture: { value: null },
      depth: { value: null },
      texels: { value: new THREE.Vector2() },
      fromClip: { value: new THREE.Matrix4() },
      toClip: { value: new THREE.Matrix4() },
      eye: { value: new THREE.Vector3() },
      reachM: { value: 0.55 },
      darkening: { value: true },
      balance: { value: new THREE.Matrix3() },
    },
    vertexShader: /* glsl */ `varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }`,
    fragmentShader: fragment(),
  });

  private readonly effort: (typeof EFFORT)[keyof typeof EFFORT];

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    sky: SkyLight['uniforms'],
    private readonly software: boolean,
  ) {
    Object.assign(this.material.uniforms, sky);
    this.effort = EFFORT[software ? 'software' : 'gpu'];
    this.screen.add(new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.material));
  }

  setWhite(white: WhiteBalance): void {
    const m = balanceMatrix(white) as Parameters<THREE.Matrix3['set']>;
    (this.material.uniforms['balance']!.value as THREE.Matrix3).set(...m);
  }

  render(scene: THREE.Scene, camera: THREE.PerspectiveCamera, moving: boolean): void {
    const target = this.targetFor(moving);
    this.renderer.setRenderTarget(target);
    this.renderer.setClearColor(0x000000, 0);
    this.renderer.clear();
    this.renderer.autoClear = false;
    this.renderer.render(scene, camera);
    this.renderer.autoClear = true;
    this.renderer.setRenderTarget(null);
    const u = this.material.uniforms;
    u['picture']!.value = target.texture;
    u['depth']!.value = target.depthTexture;
    (u['texels']!.value as THREE.Vector2).set(target.width, target.height);
    (u['toClip']!.value as THREE.Matrix4).multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    (u['fromClip']!.value as THREE.Matrix4).copy(u['toClip']!.value as THREE.Matrix4).invert();
    (u['eye']!.value as THREE.Vector3).copy(camera.position);
    u['darkening']!.value = !(moving && this.software);
    this.renderer.render(this.screen, this.flat);
  }

  private targetFor(moving: boolean): THREE.WebGLRenderTarget {
    const size = this.renderer
      .getDrawingBufferSize(new THREE.Vector2())
      .multiplyScalar(moving ? this.effort.movingScale : this.effort.restingScale)
      .ceil();
    if (this.target && (this.target.width !== size.x || this.target.height !== size.y || this.moving !== moving)) {
      this.target.depthTexture?.dispose();
      this.target.dispose();
      this.target = undefined;
    }
    this.moving = moving;
    this.target ??= new THREE.WebGLRenderTarget(size.x, size.y, {
      type: THREE.HalfFloatType,
      samples: moving ? 0 : this.effort.samples,
      depthTexture: new THREE.DepthTexture(size.x, size.y, THREE.UnsignedIntType),
      minFilter: THREE.LinearFilter,
      magFilter: THREE.LinearFilter,
    });
    return this.target;
  }
}

const fragment = (): string => /* glsl */ `
uniform sampler2D picture;
uniform sampler2D depth;
uniform vec2 texels;
uniform mat4 fromClip;
uniform mat4 toClip;
uniform vec3 eye;
uniform float reachM;
uniform bool darkening;
uniform mat3 balance;
varying vec2 at;
${TONE_GLSL}
${SKY_GLSL}
vec3 placeAt(vec2 p, float d) {
  vec4 w = fromClip * vec4(p * 2.0 - 1.0, d * 2.0 - 1.0, 1.0);
  return w.xyz / w.w;
}

/* The place that a texel of the depths stands for. */
vec3 texelPlace(vec2 texel) {
  vec2 middle = (texel + 0.5) / texels;
  return placeAt(middle, texture2D(depth, middle).r);
}

vec3 shorter(vec3 a, vec3 b) { return dot(a, a) < dot(b, b) ? a : b; }

/* Share of nearby directions that are open, from the depths alone: spiral of 10 taps in a disc about the point. */
float openness() {
  vec2 texel = floor(at * texels);
  vec3 p = texelPlace(texel);
  // Towards the nearer neighbour either way: the other one may be beyond an edge.
  vec2 right = vec2(1.0, 0.0);
  vec2 up = vec2(0.0, 1.0);
  vec3 n = normalize(cross(shorter(texelPlace(texel + right) - p, p - texelPlace(texel - right)), shorter(texelPlace(texel + up) - p, p - texelPlace(texel - up))));
  if (dot(n, eye - p) < 0.0) n = -n;
  float distance = length(eye - p);
  vec4 clip = toClip * vec4(p + n * 0.02, 1.0);
  float radius = reachM / clip.w * 0.9;
  float turn = fract(52.9829189 * fract(dot(gl_FragCoord.xy, vec2(0.06711056, 0.00583715)))) * 6.2831853;
  float shut = 0.0;
  for (int i = 0; i < 10; i++) {
    float r = (float(i) + 0.5) / 10.0;
    float a = turn + float(i) * 2.3999632;
    vec2 q = at + vec2(cos(a), sin(a) * 1.78) * r * min(radius, 0.12);
    vec3 s = texelPlace(floor(q * texels)) - p;
    float l = length(s);
    shut += max(0.0, dot(s / max(l, 1e-4), n) - 0.08) * smoothstep(reachM * 1.6, 0.0, l);
  }
  return clamp(1.0 - shut * 0.16, 0.35, 1.0) ;
}

void main() {
  vec4 seen = texture2D(picture, at);
  float d = texture2D(depth, at).r;
  vec3 behind = vec3(0.0);
  if (seen.a < 0.999) {
    vec3 direction = normalize(placeAt(at, 0.999) - eye);
    behind = skyTowards(direction, 0.0);
  }
  vec3 colour = seen.rgb;
  if (darkening && d < 1.0) colour *= openness();
  colour += behind * (1.0 - clamp(seen.a, 0.0, 1.0));
  gl_FragColor = vec4(encodeSrgb(toneCurve(max(balance * colour, vec3(0.0)))), 1.0);
}
`;
