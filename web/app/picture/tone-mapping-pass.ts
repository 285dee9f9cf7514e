import * as THREE from 'three';
import { MOST_SPREAD } from '../../../core/image/bloom';
import type { ColourCube } from '../../../core/image/colour-cube';
import { PLAIN_GRADING, type Grading } from '../../../core/image/grading';
import { DEVELOPING_GLSL, SHARPENING_GLSL } from '../../../core/image/tone';
import { balanceMatrix, type WhiteBalance } from '../../../core/image/white-balance';
import type { Sky } from '../../../core/sky/sky-map';
import type { CameraFrame } from '../../../core/camera/camera';
import type { Drawing } from '../../../core/project/style';
import { INK, PAPER } from '../../../core/render/lines';
import { SKY_GLSL, type SkyLight } from './sky-light';

/** Share of the full resolution drawn while the camera moves, and edge samples at rest; less where no GPU helps. */
const EFFORT = {
  gpu: { movingScale: 0.75, restingScale: 1, samples: 4 },
  software: { movingScale: 0.4, restingScale: 0.7, samples: 0 },
} as const;

const VERTEX = /* glsl */ `varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }`;

/**
 * Draws the scene to a floating-point target and develops it as the kernel's picture and the print are: sky behind and contact
 * darkening from the depths, then white balance, bloom, tones, curve, sRGB and look, then sharpening.
 */
export class ToneMappingPass {
  private target: THREE.WebGLRenderTarget | undefined;
  /** Scene and sky together, with its blurs as mip levels where there is bloom; and what was coded, where it is sharpened. */
  private composed: THREE.WebGLRenderTarget | undefined;
  private coded: THREE.WebGLRenderTarget | undefined;
  private moving = false;
  private grading: Grading = PLAIN_GRADING;
  private readonly screen = new THREE.Scene();
  private readonly flat = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2));
  private readonly composing = fullScreen(COMPOSING, {
    picture: { value: null },
    depth: { value: null },
    texels: { value: new THREE.Vector2() },
    fromClip: { value: new THREE.Matrix4() },
    toClip: { value: new THREE.Matrix4() },
    eye: { value: new THREE.Vector3() },
    reachM: { value: 0.55 },
    darkening: { value: true },
    fog: { value: new THREE.Vector3() },
    fogAlbedo: { value: new THREE.Vector3() },
    fogGlow: { value: new THREE.Vector3() },
    fogSun: { value: new THREE.Vector3() },
    fogSunTo: { value: new THREE.Vector3(0, 0, 1) },
    fogUnit: { value: 0 },
    lens: { value: new THREE.Vector2() },
  });
  /** The picture out of focus, where the camera has an opening. */
  private focused: THREE.WebGLRenderTarget | undefined;
  private readonly focusing = fullScreen(FOCUSING, { picture: { value: null }, aspect: { value: 1 }, most: { value: 0 } });
  private readonly developing = fullScreen(DEVELOPING, {
    picture: { value: null },
    size: { value: new THREE.Vector2() },
    balance: { value: new THREE.Matrix3() },
    bloom: { value: 0 },
    tones: { value: new THREE.Vector3() },
    saturation: { value: 0 },
    vignette: { value: 0 },
    filmic: { value: false },
    cube: { value: null },
    curves: { value: null },
    cubeSize: { value: 0 },
    curveSize: { value: 0 },
    cubeLeast: { value: new THREE.Vector3() },
    cubeMost: { value: new THREE.Vector3(1, 1, 1) },
    lookStrength: { value: 0 },
    depth: { value: null },
    texels: { value: new THREE.Vector2() },
    lines: { value: 0 },
    paper: { value: 0 },
  });
  private readonly sharpening = fullScreen(SHARPENING, {
    coded: { value: null },
    texel: { value: new THREE.Vector2() },
    sharpening: { value: 0 },
  });
  private readonly effort: (typeof EFFORT)[keyof typeof EFFORT];

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    sky: SkyLight['uniforms'],
    private readonly software: boolean,
  ) {
    Object.assign(this.composing.uniforms, sky);
    this.effort = EFFORT[software ? 'software' : 'gpu'];
    this.screen.add(this.quad);
    this.setGrading(PLAIN_GRADING, undefined);
  }

  setWhite(white: WhiteBalance): void {
    const m = balanceMatrix(white) as Parameters<THREE.Matrix3['set']>;
    (this.developing.uniforms['balance']!.value as THREE.Matrix3).set(...m);
  }

  /** Height of the lowest ground, metres: fog is thickest there. */
  setFogBase(levelM: number): void {
    (this.composing.uniforms['fog']!.value as THREE.Vector3).setZ(levelM);
  }

  /** Fog as a veil over distance: the sun scattered once, and the glow of all else. */
  setFog({ fog, sun }: Sky): void {
    const u = this.composing.uniforms;
    (u['fog']!.value as THREE.Vector3).setX(fog?.extinction ?? 0).setY(fog?.falloff ?? 0);
    if (!fog) return;
    (u['fogAlbedo']!.value as THREE.Vector3).fromArray(fog.albedo);
    (u['fogGlow']!.value as THREE.Vector3).fromArray(fog.glow);
    (u['fogSun']!.value as THREE.Vector3).fromArray(sun.normalLux);
    (u['fogSunTo']!.value as THREE.Vector3).fromArray(sun.direction);
  }

  /** `unit` brings cd/m2 to what is shown white. */
  expose(unit: number): void {
    this.composing.uniforms['fogUnit']!.value = unit;
  }

  setGrading(grading: Grading, cube: ColourCube | undefined): void {
    this.grading = grading;
    const u = this.developing.uniforms;
    u['bloom']!.value = grading.bloom * MOST_SPREAD;
    (u['tones']!.value as THREE.Vector3).set(grading.contrast, grading.highlights, grading.shadows);
    u['saturation']!.value = grading.saturation;
    u['vignette']!.value = grading.vignette;
    u['filmic']!.value = grading.curve === 'filmic';
    u['lookStrength']!.value = cube ? (grading.look?.strength ?? 0) : 0;
    this.sharpening.uniforms['sharpening']!.value = grading.sharpening;
    (u['cube']!.value as THREE.Texture | null)?.dispose();
    (u['curves']!.value as THREE.Texture | null)?.dispose();
    u['cube']!.value = cubeTexture(cube?.kind === 'cube' ? cube : undefined);
    u['curves']!.value = curveTexture(cube?.kind === 'curves' ? cube : undefined);
    u['cubeSize']!.value = cube?.kind === 'cube' ? cube.size : 2;
    u['curveSize']!.value = cube?.kind === 'curves' ? cube.size : 0;
    (u['cubeLeast']!.value as THREE.Vector3).fromArray(cube?.least ?? [0, 0, 0]);
    (u['cubeMost']!.value as THREE.Vector3).fromArray(cube?.most ?? [1, 1, 1]);
  }

  /** A thin lens: what is out of its focus is blurred. */
  setLens({ lens, right }: CameraFrame): void {
    // Across the picture, at one metre, it sees twice the length of `right`.
    const blur = lens ? lens.radiusM / lens.focusM / (2 * Math.hypot(...right)) : 0;
    (this.composing.uniforms['lens']!.value as THREE.Vector2).set(blur, lens?.focusM ?? 1);
  }

  setDrawing({ lines, paper }: Drawing): void {
    this.developing.uniforms['lines']!.value = lines;
    this.developing.uniforms['paper']!.value = paper;
  }

  render(scene: THREE.Scene, camera: THREE.PerspectiveCamera, moving: boolean): void {
    const target = this.targetFor(moving);
    this.renderer.setRenderTarget(target);
    this.renderer.setClearColor(0x000000, 0);
    this.renderer.clear();
    this.renderer.autoClear = false;
    this.renderer.render(scene, camera);
    this.renderer.autoClear = true;
    const u = this.composing.uniforms;
    u['picture']!.value = target.texture;
    u['depth']!.value = target.depthTexture;
    (u['texels']!.value as THREE.Vector2).set(target.width, target.height);
    (u['toClip']!.value as THREE.Matrix4).multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    (u['fromClip']!.value as THREE.Matrix4).copy(u['toClip']!.value as THREE.Matrix4).invert();
    (u['eye']!.value as THREE.Vector3).copy(camera.position);
    u['darkening']!.value = !(moving && this.software);
    this.composed = sized(this.composed, target.width, target.height, {
      type: THREE.HalfFloatType,
      depthBuffer: false,
      magFilter: THREE.LinearFilter,
      minFilter: this.grading.bloom > 0 ? THREE.LinearMipmapLinearFilter : THREE.LinearFilter,
      generateMipmaps: this.grading.bloom > 0,
    });
    this.pass(this.composing, this.composed);
    const { depth, texels } = this.developing.uniforms;
    depth!.value = target.depthTexture;
    (texels!.value as THREE.Vector2).set(target.width, target.height);
    this.develop(this.focusedOn(this.composed, moving).texture, target.width, target.height);
  }

  /** As the lens sees it; a processor that draws does it at rest alone. */
  private focusedOn(composed: THREE.WebGLRenderTarget, moving: boolean): THREE.WebGLRenderTarget {
    const { x: blur } = this.composing.uniforms['lens']!.value as THREE.Vector2;
    if (blur === 0 || (moving && this.software)) return composed;
    this.focused = sized(this.focused, composed.width, composed.height, {
      type: THREE.HalfFloatType,
      depthBuffer: false,
      magFilter: THREE.LinearFilter,
      minFilter: composed.texture.minFilter,
      generateMipmaps: composed.texture.generateMipmaps,
    });
    const u = this.focusing.uniforms;
    u['picture']!.value = composed.texture;
    u['aspect']!.value = composed.width / composed.height;
    u['most']!.value = MOST_BLUR;
    this.pass(this.focusing, this.focused);
    return this.focused;
  }

  private develop(picture: THREE.Texture, width: number, height: number): void {
    const u = this.developing.uniforms;
    u['picture']!.value = picture;
    (u['size']!.value as THREE.Vector2).set(width, height);
    if (this.grading.sharpening === 0) {
      this.pass(this.developing, null);
      return;
    }
    const whole = this.renderer.getDrawingBufferSize(new THREE.Vector2());
    this.coded = sized(this.coded, whole.x, whole.y, {
      type: THREE.HalfFloatType,
      depthBuffer: false,
      magFilter: THREE.NearestFilter,
      minFilter: THREE.NearestFilter,
    });
    this.pass(this.developing, this.coded);
    this.sharpening.uniforms['coded']!.value = this.coded.texture;
    (this.sharpening.uniforms['texel']!.value as THREE.Vector2).set(1 / whole.x, 1 / whole.y);
    this.pass(this.sharpening, null);
  }

  private pass(material: THREE.ShaderMaterial, to: THREE.WebGLRenderTarget | null): void {
    this.quad.material = material;
    this.renderer.setRenderTarget(to);
    this.renderer.render(this.screen, this.flat);
    this.renderer.setRenderTarget(null);
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

function fullScreen(fragmentShader: string, uniforms: THREE.ShaderMaterialParameters['uniforms']): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({ depthTest: false, depthWrite: false, uniforms: uniforms!, vertexShader: VERTEX, fragmentShader });
}

/** The target of that size, as it was or in place of it. */
function sized(
  target: THREE.WebGLRenderTarget | undefined,
  width: number,
  height: number,
  options: THREE.RenderTargetOptions,
): THREE.WebGLRenderTarget {
  if (target?.width === width && target.height === height && target.texture.generateMipmaps === (options.generateMipmaps ?? false))
    return target;
  target?.dispose();
  return new THREE.WebGLRenderTarget(width, height, options);
}

/** RGB after RGB with a channel more, as textures have them. */
function withAlpha(values: Float32Array): Float32Array<ArrayBuffer> {
  const out = new Float32Array((values.length / 3) * 4);
  for (let i = 0; i < values.length / 3; i++) out.set(values.subarray(i * 3, i * 3 + 3), i * 4);
  return out;
}

function cubeTexture(cube: ColourCube | undefined): THREE.Data3DTexture {
  const size = cube?.size ?? 2;
  const texture = new THREE.Data3DTexture(withAlpha(cube?.values ?? new Float32Array(24)), size, size, size);
  texture.type = THREE.FloatType;
  texture.needsUpdate = true;
  return texture;
}

function curveTexture(curves: ColourCube | undefined): THREE.DataTexture {
  const texture = new THREE.DataTexture(
    withAlpha(curves?.values ?? new Float32Array(6)),
    curves?.size ?? 2,
    1,
    THREE.RGBAFormat,
    THREE.FloatType,
  );
  texture.needsUpdate = true;
  return texture;
}

const COMPOSING = /* glsl */ `
uniform sampler2D picture;
uniform sampler2D depth;
uniform vec2 texels;
uniform mat4 fromClip;
uniform mat4 toClip;
uniform vec3 eye;
uniform float reachM;
uniform bool darkening;
uniform vec3 fog;
uniform vec3 fogAlbedo;
uniform vec3 fogGlow;
uniform vec3 fogSun;
uniform vec3 fogSunTo;
uniform float fogUnit;
uniform vec2 lens;
varying vec2 at;
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

/* As the kernel's: see core/kernel/assembly/fog.ts. */
float fogThickness(float z) { return fog.x * exp(min(60.0, -fog.y * (z - fog.z))); }
float fogDepth(float z, float dz, float metres) {
  float here = fogThickness(z);
  float steps = fog.y * dz * metres;
  if (abs(steps) < 1e-4) return here * metres;
  if (abs(steps) > 1.0) return (here - fogThickness(z + dz * metres)) / (fog.y * dz);
  return here * (1.0 - exp(-steps)) / (fog.y * dz);
}
float fogPhase(float c) {
  float d = 1.49 - 1.4 * c;
  return 0.51 / (12.5663706 * d * sqrt(d));
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
  if (fog.x > 0.0) {
    vec3 far = placeAt(at, min(d, 0.99999)) - eye;
    float away = d < 1.0 ? length(far) : 1e5;
    vec3 towards = normalize(far);
    float left = exp(-fogDepth(eye.z, towards.z, away));
    float through = exp(-fogDepth(eye.z, max(0.02, fogSunTo.z), 1e5));
    vec3 scattered = fogSun * through * fogPhase(dot(towards, fogSunTo)) + fogGlow;
    colour = colour * left + fogAlbedo * scattered * fogUnit * (1.0 - left);
  }
  /* Radius of the blurred disc, of the picture's width; below 0 before what is sharp. A disc of R |d - F| / F about each place (thin lens). */
  float ahead = d < 1.0 ? (toClip * vec4(placeAt(at, d), 1.0)).w : 1e6;
  gl_FragColor = vec4(colour, lens.x * (ahead - lens.y) / ahead);
}
`;

/** Blurred discs are drawn no larger than this share of the picture's width. */
const MOST_BLUR = 0.025;
const TAPS = 56;
/** Gathers the discs that reach a pixel: those of what is nearer as they are, of what is behind no further than the pixel's own. */
const FOCUSING = /* glsl */ `
uniform sampler2D picture;
uniform float aspect;
uniform float most;
varying vec2 at;
void main() {
  vec4 here = texture2D(picture, at);
  float own = min(abs(here.a), most);
  float stride = most / sqrt(${TAPS.toFixed(1)});
  // Light spreads over the area of its disc.
  float weight = 1.0 / max(own * own, stride * stride);
  vec3 sum = here.rgb * weight;
  for (int i = 0; i < ${String(TAPS)}; i++) {
    float r = sqrt((float(i) + 0.5) / ${TAPS.toFixed(1)}) * most;
    float a = float(i) * 2.3999632;
    vec4 tap = texture2D(picture, at + vec2(cos(a), sin(a) * aspect) * r);
    float reach = min(abs(tap.a), most);
    if (tap.a > here.a) reach = min(reach, own);
    float share = smoothstep(r - stride * 0.5, r + stride * 0.5, reach) / max(reach * reach, stride * stride);
    sum += tap.rgb * share;
    weight += share;
  }
  gl_FragColor = vec4(sum / weight, 1.0);
}
`;

const DEVELOPING = `${DEVELOPING_GLSL}
uniform sampler2D depth;
uniform vec2 texels;
uniform float lines;
uniform float paper;
varying vec2 at;
/* Where depth does not run on evenly: it is linear over each plane, by one over the distance. */
float lineAt(vec2 at) {
  float here = texture2D(depth, at).r;
  if (here >= 1.0) return 0.0;
  float most = 0.0;
  for (int k = 0; k < 2; k++) {
    vec2 step = (k == 0 ? vec2(1.0, 0.0) : vec2(0.0, 1.0)) / texels;
    float bend = texture2D(depth, at + step).r + texture2D(depth, at - step).r - 2.0 * here;
    most = max(most, max(bend, -0.6 * bend) / (1.0 - here));
  }
  return smoothstep(0.006, 0.03, most);
}
void main() {
  vec3 rgb = developed(at);
  if (paper > 0.0) rgb = mix(rgb, vec3(${PAPER.map((v) => (v / 255).toFixed(4)).join(', ')}), paper);
  if (lines > 0.0) rgb = mix(rgb, vec3(${INK.map((v) => (v / 255).toFixed(4)).join(', ')}), lines * lineAt(at));
  gl_FragColor = vec4(rgb, 1.0);
}
`;

const SHARPENING = /* glsl */ `
uniform sampler2D coded;
uniform vec2 texel;
varying vec2 at;
${SHARPENING_GLSL}
void main() {
  gl_FragColor = vec4(sharpened(coded, at, texel), 1.0);
}
`;
