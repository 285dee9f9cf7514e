/**
 * Clear atmosphere by integration: Rayleigh and aerosol scattering with ozone absorption in spherical shells
 * (Nishita et al. 1993; Bruneton & Neyret 2008), higher orders by the isotropic closure of Hillaire 2020, "A Scalable and
 * Production Ready Sky and Atmosphere Rendering Technique", equations 5 to 10. Coefficients per kilometre at sea level, as
 * given there for 550 nm, brought to the dominant wavelengths of the Rec.709 primaries (611, 549 and 464 nm): air by the
 * fourth power of the wavelength, ozone by its Chappuis band (0.92, 0.66 and 0.08 of the peak at 602 nm; from memory). With
 * 680 and 440 nm in their place, twilight comes out violet. Radiance comes out in cd/m2 per linear Rec.709 channel.
 */
const GROUND_KM = 6360;
const TOP_KM = 6460;
const RAYLEIGH = [8.901e-3, 13.657e-3, 26.764e-3] as const;
const RAYLEIGH_SCALE_KM = 8;
const MIE_SCATTERING = 3.996e-3;
const MIE_EXTINCTION = 4.44e-3;
const MIE_SCALE_KM = 1.2;
const MIE_G = 0.8;
const OZONE = [2.62e-3, 1.881e-3, 0.23e-3] as const;
/** Aerosol of a clear day over Hillaire's very clean air, set so that the direct sun meets the IES clear-sky values. */
const CLEAR_DAY_HAZE = 16;
const GROUND_ALBEDO = 0.25;
/** Illuminance of the sun outside the atmosphere (IES daylight availability, from memory), split for its colour of about 5780 K. */
export const EXTRATERRESTRIAL_LUX = 127_500;
const SUN_TINT = [1.033, 0.992, 0.982] as const;

/** Turbidity of the clear day that is computed where none is set; and what the far ground throws back of the light. */
export const USUAL_TURBIDITY = 1 + (CLEAR_DAY_HAZE * MIE_EXTINCTION * MIE_SCALE_KM) / (RAYLEIGH[1] * RAYLEIGH_SCALE_KM);
export const USUAL_ALBEDO = GROUND_ALBEDO;

/**
 * Aerosol for a turbidity: optical depth of air with its haze over that of air alone, upwards, at 550 nm (Preetham, Shirley & Smits
 * 1999, "A Practical Analytic Model for Daylight").
 */
export const hazeOf = (turbidity: number): number =>
  ((Math.max(1, turbidity) - 1) * RAYLEIGH[1] * RAYLEIGH_SCALE_KM) / (MIE_EXTINCTION * MIE_SCALE_KM);

export type Rgb = [number, number, number];

const TRANSMITTANCE_W = 128;
const TRANSMITTANCE_H = 48;
const MULTIPLE_SIZE = 24;

/** Precomputed tables of one atmosphere; `haze` scales the aerosol (1: clear). */
export class Atmosphere {
  private readonly transmittanceTable: Float32Array;
  private readonly multipleTable: Float32Array;

  constructor(
    private readonly haze = CLEAR_DAY_HAZE,
    private readonly groundAlbedo = GROUND_ALBEDO,
  ) {
    this.transmittanceTable = this.tabulateTransmittance();
    this.multipleTable = this.tabulateMultiple();
  }

  /** Share of the sun's light that arrives at a height from a sun at `cosine` of its zenith angle; none from below the horizon. */
  sunTransmittance(radiusKm: number, cosine: number): Rgb {
    const out: Rgb = [0, 0, 0];
    this.readSun(radiusKm, cosine, out);
    return out;
  }

  private readSun(radiusKm: number, cosine: number, out: Rgb): void {
    const horizon = -Math.sqrt(Math.max(0, 1 - (GROUND_KM / radiusKm) ** 2));
    if (cosine < horizon) {
      out[0] = out[1] = out[2] = 0;
      return;
    }
    const x = Math.sqrt((cosine - horizon) / (1 - horizon)) * (TRANSMITTANCE_W - 1);
    const y = Math.sqrt(Math.max(0, (radiusKm - GROUND_KM) / (TOP_KM - GROUND_KM))) * (TRANSMITTANCE_H - 1);
    bilinear(this.transmittanceTable, TRANSMITTANCE_W, TRANSMITTANCE_H, x, y, out);
  }

  /** Illuminance at right angles to the sun's rays (lux per channel) on the ground, for a true altitude. */
  directNormalLux(trueAltitudeDeg: number): Rgb {
    // The disc's light fades as it sinks; refraction lifts it by about half a degree at the horizon.
    const lifted = trueAltitudeDeg + refractionDeg(trueAltitudeDeg);
    const seen = Math.min(1, Math.max(0, (lifted + 0.27) / 0.54));
    if (seen <= 0) return [0, 0, 0];
    const t = this.sunTransmittance(GROUND_KM + 0.01, Math.sin((Math.max(0.02, lifted) * Math.PI) / 180));
    return t.map((v, i) => v * EXTRATERRESTRIAL_LUX * SUN_TINT[i]! * seen) as Rgb;
  }

  /** Radiance of the sky (cd/m2 per channel) towards an elevation, `relativeAzimuthRad` from the sun, on the ground. */
  skyRadiance(elevationRad: number, relativeAzimuthRad: number, sunAltitudeRad: number): Rgb {
    const r = GROUND_KM + 0.05;
    const mu = Math.sin(elevationRad);
    const muSun = Math.sin(sunAltitudeRad);
    const phaseCosine = mu * muSun + Math.cos(elevationRad) * Math.cos(sunAltitudeRad) * Math.cos(relativeAzimuthRad);
    const distance = this.distanceToEdge(r, mu);
    const rayleighPhase = (3 / (16 * Math.PI)) * (1 + phaseCosine * phaseCosine);
    const miePhase = cornetteShanks(phaseCosine);
    const steps = 40;
    const out: Rgb = [0, 0, 0];
    const through: Rgb = [1, 1, 1];
    const [direct, multiple]: [Rgb, Rgb] = [[0, 0, 0], [0, 0, 0]]; // prettier-ignore
    const horizontal = Math.cos(elevationRad);
    let previous = 0;
    for (let i = 0; i < steps; i++) {
      const next = distance * ((i + 1) / steps) ** 2;
      const t = (previous + next) / 2;
      const dt = next - previous;
      previous = next;
      const x = horizontal * t;
      const z = r + mu * t;
      const radius = Math.sqrt(x * x + z * z);
      // cosine of the sun's zenith angle at the sample, with the local vertical
      const cosSun = (x * Math.cos(sunAltitudeRad) * Math.cos(relativeAzimuthRad) + z * muSun) / radius;
      this.readSun(radius, cosSun, direct);
      this.readMultiple(radius, cosSun, multiple);
      const air = airDensity(radius);
      const aerosol = this.aerosolDensity(radius);
      const ozone = ozoneDensity(radius);
      for (let c = 0; c < 3; c++) {
        const rayleigh = RAYLEIGH[c]! * air;
        const mie = MIE_SCATTERING * aerosol;
        const extinction = rayleigh + MIE_EXTINCTION * aerosol + OZONE[c]! * ozone;
        const scattered = (rayleigh * rayleighPhase + mie * miePhase) * direct[c]! + (rayleigh + mie) * multiple[c]!;
        const step = Math.exp(-extinction * dt);
        out[c]! += through[c]! * scattered * (extinction > 0 ? (1 - step) / extinction : dt);
        through[c]! *= step;
      }
    }
    return out.map((v, c) => v * EXTRATERRESTRIAL_LUX * SUN_TINT[c]!) as Rgb;
  }

  private aerosolDensity(radiusKm: number): number {
    return this.haze * Math.exp(-Math.max(0, radiusKm - GROUND_KM) / MIE_SCALE_KM);
  }

  private distanceToEdge(r: number, mu: number): number {
    const ground = r * r * (mu * mu - 1) + GROUND_KM * GROUND_KM;
    if (mu < 0 && ground >= 0) return Math.max(0, -r * mu - Math.sqrt(ground));
    return Math.max(0, -r * mu + Math.sqrt(r * r * (mu * mu - 1) + TOP_KM * TOP_KM));
  }

  private opticalDepth(r: number, mu: number): Rgb {
    const distance = this.distanceToEdge(r, mu);
    const steps = 60;
    const out: Rgb = [0, 0, 0];
    for (let i = 0; i < steps; i++) {
      // Closer to each other near the ground, where the aerosol is.
      const from = (i / steps) ** 2 * distance;
      const to = ((i + 1) / steps) ** 2 * distance;
      const t = (from + to) / 2;
      const radius = Math.sqrt(r * r + t * t + 2 * r * mu * t);
      const air = airDensity(radius);
      const aerosol = this.aerosolDensity(radius);
      const ozone = ozoneDensity(radius);
      for (let c = 0; c < 3; c++) out[c]! += (RAYLEIGH[c]! * air + MIE_EXTINCTION * aerosol + OZONE[c]! * ozone) * (to - from);
    }
    return out;
  }

  private tabulateTransmittance(): Float32Array {
    const table = new Float32Array(TRANSMITTANCE_W * TRANSMITTANCE_H * 3);
    for (let y = 0; y < TRANSMITTANCE_H; y++) {
      const r = GROUND_KM + (y / (TRANSMITTANCE_H - 1)) ** 2 * (TOP_KM - GROUND_KM);
      const horizon = -Math.sqrt(Math.max(0, 1 - (GROUND_KM / r) ** 2));
      for (let x = 0; x < TRANSMITTANCE_W; x++) {
        const mu = horizon + (x / (TRANSMITTANCE_W - 1)) ** 2 * (1 - horizon);
        const depth = this.opticalDepth(r, Math.min(1, mu + 1e-6));
        table.set(
          depth.map((d) => Math.exp(-d)),
          (y * TRANSMITTANCE_W + x) * 3,
        );
      }
    }
    return table;
  }

  private readMultiple(radiusKm: number, cosSun: number, out: Rgb): void {
    const x = (cosSun * 0.5 + 0.5) * (MULTIPLE_SIZE - 1);
    const y = Math.sqrt(Math.max(0, (radiusKm - GROUND_KM) / (TOP_KM - GROUND_KM))) * (MULTIPLE_SIZE - 1);
    bilinear(this.multipleTable, MULTIPLE_SIZE, MULTIPLE_SIZE, x, y, out);
  }

  /** Second order from all directions, and the share that is scattered on, summed as a geometric series (Hillaire, eq. 10). */
  private tabulateMultiple(): Float32Array {
    const table = new Float32Array(MULTIPLE_SIZE * MULTIPLE_SIZE * 3);
    const directions = sphere(48);
    for (let y = 0; y < MULTIPLE_SIZE; y++)
      for (let x = 0; x < MULTIPLE_SIZE; x++) {
        const cosSun = (x / (MULTIPLE_SIZE - 1)) * 2 - 1;
        const r = GROUND_KM + 0.01 + (y / (MULTIPLE_SIZE - 1)) ** 2 * (TOP_KM - GROUND_KM - 0.02);
        const second: Rgb = [0, 0, 0];
        const share: Rgb = [0, 0, 0];
        for (const direction of directions) this.addSecondOrder(r, cosSun, direction, second, share);
        for (let c = 0; c < 3; c++)
          table[(y * MULTIPLE_SIZE + x) * 3 + c] = second[c]! / directions.length / (1 - Math.min(0.98, share[c]! / directions.length));
      }
    return table;
  }

  private addSecondOrder(r: number, cosSun: number, [dx, , dz]: Rgb, second: Rgb, share: Rgb): void {
    const distance = this.distanceToEdge(r, dz);
    const steps = 16;
    const through: Rgb = [1, 1, 1];
    const sun: Rgb = [0, 0, 0];
    const sinSun = Math.sqrt(1 - cosSun * cosSun);
    for (let i = 0; i < steps; i++) {
      const t = ((i + 0.5) / steps) * distance;
      const dt = distance / steps;
      const radius = Math.sqrt(r * r + t * t + 2 * r * dz * t);
      const localSun = (dx * t * sinSun + (r + dz * t) * cosSun) / radius;
      this.readSun(radius, localSun, sun);
      const air = airDensity(radius);
      const aerosol = this.aerosolDensity(radius);
      const ozone = ozoneDensity(radius);
      for (let c = 0; c < 3; c++) {
        const scattering = RAYLEIGH[c]! * air + MIE_SCATTERING * aerosol;
        const extinction = RAYLEIGH[c]! * air + MIE_EXTINCTION * aerosol + OZONE[c]! * ozone;
        const step = Math.exp(-extinction * dt);
        const integral = extinction > 0 ? (1 - step) / extinction : dt;
        second[c]! += through[c]! * scattering * integral * sun[c]! * (1 / (4 * Math.PI));
        share[c]! += through[c]! * scattering * integral;
        through[c]! *= step;
      }
    }
    if (dz < 0 && r * r * (dz * dz - 1) + GROUND_KM * GROUND_KM >= 0) {
      const z = r + dz * distance;
      const localSun = (dx * distance * sinSun + z * cosSun) / GROUND_KM;
      this.readSun(GROUND_KM + 0.001, localSun, sun);
      for (let c = 0; c < 3; c++) second[c]! += (through[c]! * sun[c]! * Math.max(0, localSun) * this.groundAlbedo) / Math.PI;
    }
  }
}

/** Shares of what there is on the ground, and of ozone where there is most. */
const airDensity = (radiusKm: number): number => Math.exp(-Math.max(0, radiusKm - GROUND_KM) / RAYLEIGH_SCALE_KM);
const ozoneDensity = (radiusKm: number): number => Math.max(0, 1 - Math.abs(Math.max(0, radiusKm - GROUND_KM) - 25) / 15);

function cornetteShanks(cosine: number): number {
  const g2 = MIE_G * MIE_G;
  return ((3 / (8 * Math.PI)) * ((1 - g2) * (1 + cosine * cosine))) / ((2 + g2) * Math.pow(1 + g2 - 2 * MIE_G * cosine, 1.5));
}

/** Saemundsson's refraction (Meeus, Astronomical Algorithms, 16.4; from memory), for a true altitude. */
export function refractionDeg(trueAltitudeDeg: number): number {
  if (trueAltitudeDeg < -2) return 0;
  const a = trueAltitudeDeg + 10.3 / (trueAltitudeDeg + 5.11);
  return 1.02 / Math.tan((a * Math.PI) / 180) / 60;
}

/** Directions spread evenly over the sphere (Fibonacci lattice). */
function sphere(count: number): Rgb[] {
  return Array.from({ length: count }, (_, i) => {
    const z = 1 - (2 * (i + 0.5)) / count;
    const r = Math.sqrt(1 - z * z);
    const a = i * Math.PI * (3 - Math.sqrt(5));
    return [r * Math.cos(a), r * Math.sin(a), z];
  });
}

/** A colour of a table between its texels. */
function bilinear(table: Float32Array, width: number, height: number, x: number, y: number, out: Rgb): void {
  const cx = Math.min(width - 1, Math.max(0, x));
  const cy = Math.min(height - 1, Math.max(0, y));
  const x0 = Math.min(width - 2, Math.floor(cx));
  const y0 = Math.min(height - 2, Math.floor(cy));
  const fx = cx - x0;
  const fy = cy - y0;
  const here = (y0 * width + x0) * 3;
  const above = here + width * 3;
  for (let c = 0; c < 3; c++)
    out[c] =
      (table[here + c]! * (1 - fx) + table[here + c + 3]! * fx) * (1 - fy) +
      (table[above + c]! * (1 - fx) + table[above + c + 3]! * fx) * fy;
}
