import * as THREE from 'three';
import type { Finish } from '../../../core/finish/finish';
import { absorptionOf, faceTintOf } from '../../../core/finish/clear-body';
import type { SurfaceBatch } from './surface-batch';

const SIZE = 1024;
/** Nowhere: nothing of the scene is seen by it. */
const BLIND = new THREE.OrthographicCamera(-1e-6, 1e-6, 1e-6, -1e-6, 1e-6, 2e-6);
BLIND.position.set(0, 0, -1e7);
BLIND.updateMatrixWorld();

/**
 * What clear bodies leave of the sun's light, over the square that its shadow map covers. Every face adds the logarithm of
 * what it lets pass, and for what is absorbed in between its depth, going in with one sign and coming out with the other: so
 * the order in which faces are drawn does not matter. Behind the first opaque
 * surface no more is lost.
 */
export class SunTint {
  /** Shared by every finish's shader. */
  readonly uniforms: { sunTint: { value: THREE.Texture } };
  private readonly white = new THREE.DataTexture(Uint8Array.of(255, 255, 255, 255), 1, 1);
  private readonly sums = new THREE.WebGLRenderTarget(SIZE, SIZE, {
    type: THREE.FloatType,
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
    depthBuffer: false,
  });
  private readonly tint = new THREE.WebGLRenderTarget(SIZE, SIZE, { depthBuffer: false });
  private readonly faces = new THREE.Scene();
  private readonly screen = new THREE.Scene();
  private readonly flat = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly isPossible: boolean;

  constructor(private readonly renderer: THREE.WebGLRenderer) {
    this.white.needsUpdate = true;
    this.uniforms = { sunTint: { value: this.white } };
    this.isPossible = renderer.extensions.has('EXT_color_buffer_float') && renderer.extensions.has('EXT_float_blend');
    const material = new THREE.ShaderMaterial({
      depthTest: false,
      depthWrite: false,
      uniforms: { sums: { value: this.sums.texture } },
      vertexShader: /* glsl */ `varying vec2 at; void main() { at = uv; gl_Position = vec4(position.xy, 0.0, 1.0); }`,
      fragmentShader: /* glsl */ `uniform sampler2D sums; varying vec2 at; void main() { gl_FragColor = vec4(exp(min(texture2D(sums, at).rgb, 0.0)), 1.0); }`,
    });
    this.screen.add(new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material));
  }

  /** Draws the shadow map of `scene` anew, and then the tint in front of it. */
  render(scene: THREE.Scene, { shadow }: THREE.DirectionalLight, clear: readonly SurfaceBatch[]): void {
    const { renderer } = this;
    renderer.shadowMap.needsUpdate = true;
    renderer.setRenderTarget(this.sums);
    renderer.setClearColor(0x000000, 0);
    renderer.render(scene, BLIND);
    const opaque = shadow.map?.depthTexture;
    if (!this.isPossible || clear.length === 0 || !opaque) {
      this.uniforms.sunTint.value = this.white;
      renderer.setRenderTarget(null);
      return;
    }
    const twins = clear.map((batch) => batch.twin(faceMaterial(batch.instances[0]!.finish, opaque, shadow.camera), 'shadow'));
    this.faces.add(...twins);
    renderer.render(this.faces, shadow.camera);
    renderer.setRenderTarget(this.tint);
    renderer.render(this.screen, this.flat);
    renderer.setRenderTarget(null);
    this.faces.clear();
    for (const { material } of twins) material.dispose();
    this.uniforms.sunTint.value = this.tint.texture;
  }

  dispose(): void {
    this.sums.dispose();
    this.tint.dispose();
  }
}

function faceMaterial(finish: Finish, opaque: THREE.Texture, { near, far }: THREE.OrthographicCamera): THREE.ShaderMaterial {
  const { transmission, opacity, ior, body } = finish;
  const absorption = body === 'sheet' ? [0, 0, 0] : absorptionOf(finish);
  return new THREE.ShaderMaterial({
    side: THREE.DoubleSide,
    depthTest: false,
    depthWrite: false,
    transparent: true,
    blending: THREE.CustomBlending,
    blendSrc: THREE.OneFactor,
    blendDst: THREE.OneFactor,
    uniforms: {
      opaque: { value: opaque },
      rangeM: { value: far - near },
      absorption: { value: absorption },
      passing: { value: opacity < 1 ? [1 - opacity, 1 - opacity, 1 - opacity] : faceTintOf(finish).map((c) => transmission * c) },
      ior: { value: opacity < 1 ? 1 : ior },
      faces: { value: body === 'sheet' ? 2 : 1 },
    }, // prettier-ignore
    vertexShader: /* glsl */ `
varying vec3 facing;
void main() {
  facing = normalMatrix * normal;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`,
    fragmentShader: /* glsl */ `
precision highp sampler2DShadow;
uniform sampler2DShadow opaque;
uniform float rangeM;
uniform vec3 absorption;
uniform vec3 passing;
uniform float ior;
uniform float faces;
varying vec3 facing;
void main() {
  vec2 at = gl_FragCoord.xy / ${SIZE.toFixed(1)};
  float way = gl_FrontFacing ? 1.0 : -1.0;
  if (texture(opaque, vec3(at, gl_FragCoord.z - 5e-4)) < 0.5) {
    // Behind what is opaque: the way inside ends there.
    if (absorption == vec3(0.0)) discard;
    float lit = 0.0;
    for (float step = 0.5; step > 5e-5; step *= 0.5) if (texture(opaque, vec3(at, lit + step)) >= 0.5) lit += step;
    gl_FragColor = vec4(way * absorption * (lit - 0.5) * rangeM, 0.0);
    return;
  }
  float c = max(1e-3, abs(normalize(facing).z));
  float g = sqrt(ior * ior - 1.0 + c * c);
  float s = (c * (g + c) - 1.0) / (c * (g - c) + 1.0);
  float mirrored = 0.5 * pow((g - c) / (g + c), 2.0) * (1.0 + s * s);
  // Both faces of a thin pane, with what goes to and fro between them.
  if (faces > 1.5) mirrored = 2.0 * mirrored / (1.0 + mirrored);
  vec3 absorbed = way * absorption * (gl_FragCoord.z - 0.5) * rangeM;
  gl_FragColor = vec4(log(max(passing * (1.0 - mirrored), vec3(1e-4))) + absorbed, 0.0);
}`,
  });
}

/** Tints the sun's light where it is looked up in its shadow map. */
export function tintSunlight(shader: THREE.WebGLProgramParametersWithUniforms, { sunTint }: SunTint['uniforms']): void {
  shader.uniforms['sunTint'] = sunTint;
  const met = 'directLight.color *= ( directLight.visible && receiveShadow ) ? getShadow( directionalShadowMap[ i ]';
  shader.fragmentShader = shader.fragmentShader
    .replace('#include <common>', '#include <common>\nuniform sampler2D sunTint;')
    .replace(
      '#include <lights_fragment_begin>',
      THREE.ShaderChunk.lights_fragment_begin.replace(
        met,
        `if (receiveShadow) directLight.color *= texture2D(sunTint, vDirectionalShadowCoord[ i ].xy).rgb;\n${met}`,
      ),
    );
}
