import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { clearSky, overcastSky, skyHorizontalLux, type Sky } from '../../../core/sky/sky-map';
import { SkyLight } from './sky-light';

/** Light that the harmonics give a matt surface facing a way, over pi: its radiance if it were white. */
function probe(sky: Sky, normal: [number, number, number]): number {
  const light = new SkyLight();
  light.set(sky);
  light.expose(1);
  const out = new THREE.Vector3();
  light.probe.sh.getIrradianceAt(new THREE.Vector3(...normal), out);
  return 0.2126 * out.x + 0.7152 * out.y + 0.0722 * out.z;
}

describe('sky light of the working picture', () => {
  it('is the map’s own illuminance on level ground within 3 per cent, the reach of nine harmonics', () => {
    for (const sky of [overcastSky(5000), clearSky({ trueAltitudeDeg: 35, azimuthDeg: 120, trueNorthDeg: 0 })])
      expect(Math.abs(probe(sky, [0, 0, 1]) / skyHorizontalLux(sky) - 1)).toBeLessThan(0.03);
  });

  it('is brighter towards the sun’s side', () => {
    const sky = clearSky({ trueAltitudeDeg: 20, azimuthDeg: 90, trueNorthDeg: 0 });
    expect(probe(sky, [1, 0, 0])).toBeGreaterThan(probe(sky, [-1, 0, 0]) * 1.2);
  });

  it('keeps the map itself, in half floats, for what is mirrored', () => {
    const light = new SkyLight();
    light.set(overcastSky(5000));
    const map = light.uniforms.skyMap.value as THREE.DataTexture;
    const { data, width } = map.image as { data: Uint16Array; width: number };
    light.expose(1);
    // The zenith of the CIE overcast sky, read back as the shader reads it.
    expect(THREE.DataUtils.fromHalfFloat(data[(width / 2) * 4 + 1]!) * light.uniforms.skyUnit.value).toBeCloseTo(5000, -2);
  });
});
