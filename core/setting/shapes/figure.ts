import { MeshBuilder } from '../../geometry/shapes';
import { add, mix, type Vec3 } from '../../geometry/vec3';
import { ball, limb, solid } from './solid';
import { stuff, type Shape, type ShapePart } from './shape';

/**
 * People as scale figures. Lengths of limbs as shares of the stature are those of Drillis and Contini (1966), from memory; faces are
 * left out. They look along -y.
 */

const THIGH = 0.245;
const SHANK = 0.246;
const ANKLE = 0.039;
const UPPER_ARM = 0.186;
const FOREARM = 0.146;
const SHOULDERS = 0.818;
const HIPS = THIGH + SHANK + ANKLE;
const RAD = Math.PI / 180;

/** Angles from hanging down, degrees, forwards; left and right. */
interface Posture {
  thighs: [number, number];
  /** Bend of the knee: the shank turns back by so much. */
  knees: [number, number];
  arms: [number, number];
  elbows: [number, number];
  leanDeg?: number;
  /** Of the hips, in place of standing on the lower foot. */
  seatM?: number;
}

const POSTURES = {
  standing: { thighs: [3, -2], knees: [3, 2], arms: [-3, 4], elbows: [14, 18] },
  waiting: { thighs: [6, -4], knees: [12, 1], arms: [14, -2], elbows: [82, 12] },
  walking: { thighs: [24, -16], knees: [6, 22], arms: [-20, 22], elbows: [14, 28], leanDeg: 3 },
  sitting: { thighs: [84, 80], knees: [84, 78], arms: [24, 20], elbows: [52, 58], seatM: 0.45, leanDeg: -4 },
  pushing: { thighs: [18, -18], knees: [8, 20], arms: [34, 34], elbows: [52, 52], leanDeg: 6 },
  riding: { thighs: [64, 28], knees: [72, 40], arms: [48, 48], elbows: [14, 14], seatM: 0.92, leanDeg: 26 },
} as const satisfies Record<string, Posture>;

/** Stature and girth of three builds. */
const BUILDS = { slight: [1.64, 0.92], middling: [1.74, 1], sturdy: [1.81, 1.12] } as const;

const swing = (length: number, deg: number): Vec3 => [0, -Math.sin(deg * RAD) * length, -Math.cos(deg * RAD) * length];

interface Look {
  coat: string;
  shirt: string;
  legs: string;
  skin: string;
  hair: string;
  longHair?: boolean;
  skirt?: boolean;
}

/** The body in a posture; bare arms where it is warm, a coat where it is cold. */
function body(posture: Posture, [stature, girth]: readonly [number, number], look: Look): ShapePart[] {
  const h = stature;
  const g = girth * stature;
  const lean = (posture.leanDeg ?? 0) * RAD;
  const reach = (i: 0 | 1): number => {
    const thigh = swing(THIGH * h, posture.thighs[i]);
    return thigh[2] + swing(SHANK * h, posture.thighs[i] - posture.knees[i])[2];
  };
  const hipZ = posture.seatM ?? ANKLE * h - Math.min(reach(0), reach(1));
  const hip: Vec3 = [0, 0, hipZ];
  const up = (share: number, forward = 0): Vec3 => {
    const rise = (share - HIPS) * h;
    return [0, -Math.sin(lean) * rise - forward * h, hipZ + Math.cos(lean) * rise];
  };
  const [legs, skin, shirt, coat, hair, shoes, sleeves] = Array.from({ length: 7 }, () => new MeshBuilder());
  for (const [i, sign] of [[0, 1], [1, -1]] as const) {
    const top = add(hip, [sign * 0.052 * h, 0, 0]);
    const knee = add(top, swing(THIGH * h, posture.thighs[i]));
    const ankle = add(knee, swing(SHANK * h, posture.thighs[i] - posture.knees[i]));
    limb(legs!, [add(top, [0, 0, 0.02 * h]), mix(top, knee, 0.35), knee, mix(knee, ankle, 0.35), ankle], [0.052 * g, 0.05 * g, 0.034 * g, 0.033 * g, 0.025 * g], 10, [1, 0, 0]);
    const heel = add(ankle, [0, 0.022 * h, -ANKLE * h * 0.55]);
    limb(shoes!, [heel, add(heel, [0, -0.05 * h, 0.004 * h]), add(heel, [0, -0.13 * h, -0.008 * h]), add(heel, [0, -0.152 * h, -0.012 * h])], [[0.022 * h, 0.026 * h], [0.025 * h, 0.028 * h], [0.026 * h, 0.016 * h], [0.014 * h, 0.008 * h]], 10, [1, 0, 0]);
    const shoulder = add(up(SHOULDERS - 0.012), [sign * 0.112 * g, 0, 0]);
    const elbow = add(add(shoulder, swing(UPPER_ARM * h, posture.arms[i] + (posture.leanDeg ?? 0))), [sign * 0.022 * h, 0, 0]);
    const wrist = add(elbow, swing(FOREARM * h, posture.arms[i] + posture.elbows[i] + (posture.leanDeg ?? 0)));
    const hand = mix(elbow, wrist, 1.42);
    const arm = [shoulder, mix(shoulder, elbow, 0.5), elbow, mix(elbow, wrist, 0.4), wrist];
    limb(sleeves!, arm, [0.034 * g, 0.031 * g, 0.027 * g, 0.027 * g, 0.021 * g], 9, [1, 0, 0]);
    limb(skin!, [mix(shoulder, elbow, 0.48), elbow, mix(elbow, wrist, 0.35), wrist], [0.027 * g, 0.023 * g, 0.023 * g, 0.016 * g], 9, [1, 0, 0]);
    limb(shirt!, [shoulder, mix(shoulder, elbow, 0.52)], [0.036 * g, 0.034 * g], 9, [1, 0, 0]);
    limb(skin!, [wrist, mix(wrist, hand, 0.45), hand], [[0.014 * h, 0.018 * h], [0.011 * h, 0.026 * h], [0.007 * h, 0.014 * h]], 8, [1, 0, 0]);
  }
  const trunk: [number, number, number][] = [[HIPS - 0.035, 0.098, 0.066], [HIPS + 0.02, 0.1, 0.07], [HIPS + 0.09, 0.087, 0.06], [0.7, 0.1, 0.066], [0.765, 0.112, 0.066], [0.812, 0.098, 0.05], [0.84, 0.045, 0.038]];
  limb(shirt!, trunk.map(([at]) => up(at)), trunk.map(([, w, d]) => [w * g, d * g]), 14, [1, 0, 0]);
  const longCoat: [number, number, number][] = [[posture.seatM ? HIPS - 0.03 : HIPS - 0.1, 0.112, 0.084], [HIPS, 0.11, 0.08], [HIPS + 0.09, 0.099, 0.072], [0.7, 0.112, 0.077], [0.765, 0.122, 0.077], [0.815, 0.106, 0.06], [0.848, 0.05, 0.045]];
  limb(coat!, longCoat.map(([at]) => up(at)), longCoat.map(([, w, d]) => [w * g, d * g]), 14, [1, 0, 0]);
  if (look.skirt && !posture.seatM) limb(legs!, [up(HIPS + 0.05), up(HIPS - 0.02), up(0.3)], [[0.088 * g, 0.066 * g], [0.104 * g, 0.078 * g], [0.13 * g, 0.115 * g]], 16, [1, 0, 0]);
  limb(skin!, [up(0.825), up(0.885)], [0.032 * h, 0.03 * h], 10, [1, 0, 0]);
  const head = up(0.93, 0.008);
  ball(skin!, head, [0.044 * h, 0.055 * h, 0.067 * h], 16);
  ball(hair!, add(head, [0, 0.009 * h, 0.013 * h]), [0.048 * h, 0.056 * h, 0.062 * h], 16);
  if (look.longHair) limb(hair!, [add(head, [0, 0.03 * h, 0.02 * h]), add(head, [0, 0.045 * h, -0.06 * h]), add(head, [0, 0.045 * h, -0.12 * h])], [[0.044 * h, 0.03 * h], [0.046 * h, 0.026 * h], [0.02 * h, 0.012 * h]], 10, [1, 0, 0]);
  return [
    { mesh: skin!.build(), stuff: stuff('skin', look.skin, { roughness: 0.55 }) },
    { mesh: hair!.build(), stuff: stuff('hair', look.hair, { roughness: 0.6 }) },
    { mesh: legs!.build(), stuff: stuff('cotton of the legs', look.legs, { roughness: 0.9, sheen: 0.2 }) },
    { mesh: shoes!.build(), stuff: stuff('shoes', '#2b2622', { roughness: 0.5 }) },
    { mesh: shirt!.build(), stuff: stuff('shirt', look.shirt, { roughness: 0.9, sheen: 0.2 }), in: ['warm'] },
    { mesh: coat!.build(), stuff: stuff('coat', look.coat, { roughness: 0.92, sheen: 0.3 }), in: ['cold'] },
    { mesh: sleeves!.build(), stuff: stuff('coat', look.coat, { roughness: 0.92, sheen: 0.3 }), in: ['cold'] },
  ];
} // prettier-ignore

const LOOKS: Record<keyof typeof BUILDS, Look> = {
  slight: { coat: '#8a3b2e', shirt: '#e3ddd0', legs: '#35404e', skin: '#c99b80', hair: '#4a3426', longHair: true },
  middling: { coat: '#39485a', shirt: '#9fb4bd', legs: '#5c5145', skin: '#a9775a', hair: '#231c18' },
  sturdy: { coat: '#5d5a3d', shirt: '#c4a35a', legs: '#2c3038', skin: '#d3a88d', hair: '#8d8378' },
};

const pram = (): ShapePart[] => [
  { mesh: solid((b) => { ball(b, [0, -0.92, 0.72], [0.22, 0.42, 0.2], 16); }), stuff: stuff('canvas of the pram', '#33424d', { roughness: 0.9 }) },
  { mesh: solid((b) => { for (const x of [-0.24, 0.24]) { b.tube([[x, -1.2, 0.16], [x, -0.9, 0.55], [x, -0.42, 0.96]], 0.012); b.tube([[x, -0.66, 0.16], [x, -1.0, 0.55]], 0.012); } b.tube([[-0.24, -0.42, 0.96], [0.24, -0.42, 0.96]], 0.014); }), stuff: stuff('steel frame', '#8d9196', { roughness: 0.35, metalness: 1 }) },
  { mesh: solid((b) => { for (const y of [-1.2, -0.66]) for (const x of [-0.26, 0.26]) rollerAlongY(b, [x, y, 0.16], 0.16, 0.04); }), stuff: stuff('rubber', '#24262a', { roughness: 0.8 }) },
]; // prettier-ignore

/** A wheel that rolls along y. */
const rollerAlongY = (b: MeshBuilder, [x, y, z]: Vec3, radius: number, width: number) =>
  limb(b, [[x - width / 2, y, z], [x + width / 2, y, z]], [radius], 20, [0, 0, 1]); // prettier-ignore

/** A bicycle that rolls along -y. */
export function bicycle(): ShapePart[] {
  const frame = solid((b) => {
    const [crank, seat, head, rear, front]: Vec3[] = [[0, 0.05, 0.28], [0, 0.22, 0.78], [0, -0.4, 0.8], [0, 0.5, 0.34], [0, -0.55, 0.34]] as [Vec3, Vec3, Vec3, Vec3, Vec3];
    for (const [p, q] of [[crank, seat], [seat, head], [crank, head], [crank, rear], [seat, rear], [head, front]] as const) b.tube([p, q], 0.016, 8);
    b.tube([seat, [0, 0.25, 0.92]], 0.013, 8);
    b.tube([head, [0, -0.37, 0.98]], 0.013, 8);
    b.tube([[-0.28, -0.25, 1.0], [-0.2, -0.36, 1.0], [0.2, -0.36, 1.0], [0.28, -0.25, 1.0]], 0.012, 8);
    for (const y of [0.5, -0.55]) for (let k = 0; k < 12; k++) { const t = (k / 12) * 2 * Math.PI; b.tube([[0, y, 0.34], [0, y + Math.cos(t) * 0.32, 0.34 + Math.sin(t) * 0.32]], 0.0022, 3); }
  });
  const tyres = solid((b) => { for (const y of [0.5, -0.55]) ringAlongY(b, [0, y, 0.34], 0.33, 0.018); });
  const saddle = solid((b) => { ball(b, [0, 0.24, 0.94], [0.075, 0.13, 0.035], 12); });
  return [
    { mesh: frame, stuff: stuff('painted frame', '#2f5a54', { roughness: 0.35 }) },
    { mesh: tyres, stuff: stuff('rubber', '#24262a', { roughness: 0.8 }) },
    { mesh: saddle, stuff: stuff('leather', '#4a3323', { roughness: 0.6 }) },
  ];
} // prettier-ignore

/** Ring in the plane whose normal is x. */
function ringAlongY(b: MeshBuilder, [x, y, z]: Vec3, radius: number, thickness: number): void {
  const points = Array.from({ length: 33 }, (_, i): Vec3 => {
    const t = (i / 32) * 2 * Math.PI;
    return [x, y + Math.cos(t) * radius, z + Math.sin(t) * radius];
  });
  limb(b, points, [thickness], 7, [1, 0, 0]);
}

const WORDS = { standing: 'standing', waiting: 'waiting', walking: 'walking', sitting: 'sitting, seat 0.45 m', pushing: 'pushing a pram', riding: 'on a bicycle' } as const; // prettier-ignore

/** All postures of each of three builds. */
export const figures = (): (Shape & { posture: keyof typeof POSTURES })[] =>
  (Object.keys(POSTURES) as (keyof typeof POSTURES)[]).flatMap((posture) =>
    (Object.keys(BUILDS) as (keyof typeof BUILDS)[]).map((build) => ({
      id: build,
      posture,
      name: `${build}, ${WORDS[posture]}`,
      make: () => [
        ...body(POSTURES[posture], BUILDS[build], { ...LOOKS[build], skirt: build === 'slight' && posture === 'standing' }),
        ...(posture === 'pushing' ? pram() : posture === 'riding' ? bicycle() : []),
      ],
    })),
  );
