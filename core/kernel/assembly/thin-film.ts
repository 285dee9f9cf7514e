/**
 * What a thin film on a surface mirrors, in colour: the light that leaves after each turn in it is added with its phase, in the closed
 * form of Belcour & Barla 2017 ("A Practical Extension to Microfacet Theory for the Modeling of Varying Iridescence"), as
 * KHR_materials_iridescence has it. Constants of the spectral sensitivities as there, from memory; thin-film.spec.ts checks the whole
 * against Airy's formula by wavelengths.
 */
const PI: f32 = 3.14159265;

export let filmR: f32 = 0;
export let filmG: f32 = 0;
export let filmB: f32 = 0;

// @ts-ignore: decorator
@inline
function fifth(cosine: f32): f32 {
  const a = max<f32>(0, 1 - cosine);
  const b = a * a;
  return b * b * a;
}

/** Reflectance, looked at straight, between two indices. */
// @ts-ignore: decorator
@inline
function straight(a: f32, b: f32): f32 {
  const r = (a - b) / (a + b);
  return r * r;
}

let x: f32 = 0;
let y: f32 = 0;
let z: f32 = 0;

/** Fourier transforms of the colour-matching functions at a difference of paths (nm) and a shift of phase. */
function sensitivity(pathNm: f32, shift: f32): void {
  const phase: f32 = 2 * PI * pathNm * <f32>1e-9;
  const p2 = phase * phase;
  x =
    <f32>5.4856e-13 * sqrt<f32>(2 * PI * <f32>4.3278e9) * Mathf.cos(<f32>1.681e6 * phase + shift) * Mathf.exp(<f32>-4.3278e9 * p2) +
    <f32>9.747e-14 * sqrt<f32>(2 * PI * <f32>4.5282e9) * Mathf.cos(<f32>2.2399e6 * phase + shift) * Mathf.exp(<f32>-4.5282e9 * p2);
  y = <f32>4.4201e-13 * sqrt<f32>(2 * PI * <f32>9.3046e9) * Mathf.cos(<f32>1.7953e6 * phase + shift) * Mathf.exp(<f32>-9.3046e9 * p2);
  z = <f32>5.2481e-13 * sqrt<f32>(2 * PI * <f32>6.6121e9) * Mathf.cos(<f32>2.2084e6 * phase + shift) * Mathf.exp(<f32>-6.6121e9 * p2);
  const k: f32 = 1 / <f32>1.0685e-7;
  x *= k;
  y *= k;
  z *= k;
}

/** Of one channel, seen under a cosine: the part without interference, then amplitude and shift of phase that go into it. */
let mean: f32 = 0;
let share: f32 = 0;
let shift: f32 = 0;
let step: f32 = 0;

function bounceIn(f0: f32, outer: f32, inner: f32, crossed: f32): void {
  const root = sqrt<f32>(min<f32>(<f32>0.9999, max<f32>(0, f0)));
  const base: f32 = (1 + root) / (1 - root);
  const s0 = straight(base, inner);
  const r23: f32 = s0 + (1 - s0) * crossed;
  const r123 = min<f32>(<f32>0.9999, max<f32>(<f32>1e-10, outer * r23));
  const through: f32 = 1 - outer;
  step = sqrt<f32>(r123);
  const returned: f32 = (through * through * r23) / (1 - r123);
  mean = outer + returned;
  share = returned - through;
  shift = base < inner ? PI : 0;
}

/** Reflectance of a film of `nm` (not 0) and index `index` on a surface of reflectance f0 (straight), under a cosine, into film*. */
export function mirrorFilm(cosine: f32, index: f32, nm: f32, f0R: f32, f0G: f32, f0B: f32): void {
  const within: f32 = 1 - (1 - cosine * cosine) / (index * index);
  const cosIn = sqrt<f32>(max<f32>(0, within));
  const o0 = straight(index, 1);
  const outer: f32 = o0 + (1 - o0) * fifth(cosine);
  const pathNm: f32 = 2 * index * nm * cosIn;
  const crossed = fifth(cosIn);
  let aR: f32 = 0,
    aG: f32 = 0,
    aB: f32 = 0;
  for (let channel = 0; channel < 3; channel++) {
    bounceIn(channel == 0 ? f0R : channel == 1 ? f0G : f0B, outer, index, crossed);
    let amplitude = share,
      rx: f32 = 0,
      ry: f32 = 0,
      rz: f32 = 0;
    for (let k = 1; k <= 2; k++) {
      amplitude *= step;
      // The outer face, met from within, turns the phase by half a wave.
      sensitivity(<f32>k * pathNm, <f32>k * (PI + shift));
      rx += 2 * amplitude * x;
      ry += 2 * amplitude * y;
      rz += 2 * amplitude * z;
    }
    // Linear Rec.709 of CIE 1931 XYZ (IEC 61966-2-1).
    if (channel == 0) aR = mean + <f32>3.2404542 * rx - <f32>1.5371385 * ry - <f32>0.4985314 * rz;
    else if (channel == 1) aG = mean - <f32>0.969266 * rx + <f32>1.8760108 * ry + <f32>0.041556 * rz;
    else aB = mean + <f32>0.0556434 * rx - <f32>0.2040259 * ry + <f32>1.0572252 * rz;
  }
  filmR = min<f32>(1, max<f32>(0, aR));
  filmG = min<f32>(1, max<f32>(0, aG));
  filmB = min<f32>(1, max<f32>(0, aB));
}
