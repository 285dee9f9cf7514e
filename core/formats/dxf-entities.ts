import DxfParser, { type IEntity } from 'dxf-parser';

/**
 * Readers of those entities that the parser's own ones read wrongly or in a circle when their groups come in another order or are
 * cut off: each goes on group by group until the next entity begins, and never back.
 */

type Handler = InstanceType<Parameters<DxfParser['registerEntityHandler']>[0]>;
type Scanner = Parameters<Handler['parseEntity']>[0];

/** All groups up to the next entity, in their order. */
function groupsOf(scanner: Scanner): [code: number, value: number | string][] {
  const groups: [number, number | string][] = [];
  for (let group = scanner.next(); group.code !== 0 && !scanner.isEOF(); group = scanner.next())
    groups.push([group.code, group.value as number | string]);
  return groups;
}

type Groups = ReturnType<typeof groupsOf>;

const numberOf = (groups: Groups, code: number, fallback = 0): number => {
  const value = groups.find(([c]) => c === code)?.[1];
  return value === undefined ? fallback : Number(value);
};

/** What every entity has. */
function common(type: string, groups: Groups): Pick<IEntity, 'type' | 'layer' | 'inPaperSpace'> & { handle?: IEntity['handle'] } {
  const text = (code: number) => groups.find(([c]) => c === code)?.[1];
  const handle = text(5);
  return {
    type,
    layer: String(text(8) ?? '0'),
    inPaperSpace: Number(text(67) ?? 0) !== 0,
    ...(handle === undefined ? {} : { handle: handle as IEntity['handle'] }),
  };
}

class Face {
  readonly ForEntityName = '3DFACE';
  parseEntity(scanner: Scanner): IEntity {
    const groups = groupsOf(scanner);
    const corners = [0, 1, 2, 3].filter((k) => groups.some(([code]) => code === 10 + k));
    const vertices = corners.map((k) => ({ x: numberOf(groups, 10 + k), y: numberOf(groups, 20 + k), z: numberOf(groups, 30 + k) }));
    return { ...common('3DFACE', groups), vertices } as unknown as IEntity;
  }
}

class LightPolyline {
  readonly ForEntityName = 'LWPOLYLINE';
  parseEntity(scanner: Scanner): IEntity {
    const groups = groupsOf(scanner);
    const vertices: { x: number; y: number; bulge: number }[] = [];
    for (const [code, value] of groups) {
      const last = vertices.at(-1);
      if (code === 10) vertices.push({ x: Number(value), y: 0, bulge: 0 });
      else if (last && code === 20) last.y = Number(value);
      else if (last && code === 42) last.bulge = Number(value);
    }
    const direction = groups.some(([code]) => code === 210)
      ? {
          extrusionDirectionX: numberOf(groups, 210),
          extrusionDirectionY: numberOf(groups, 220),
          extrusionDirectionZ: numberOf(groups, 230, 1),
        }
      : {};
    return { ...common('LWPOLYLINE', groups), vertices, shape: (numberOf(groups, 70) & 1) === 1, elevation: numberOf(groups, 38), ...direction } as unknown as IEntity; // prettier-ignore
  }
}

class Polyline {
  readonly ForEntityName = 'POLYLINE';
  parseEntity(scanner: Scanner): IEntity {
    const groups = groupsOf(scanner);
    const flags = numberOf(groups, 70);
    const vertices: object[] = [];
    while (scanner.lastReadGroup.value === 'VERTEX') vertices.push(vertexOf(groupsOf(scanner)));
    if (scanner.lastReadGroup.value === 'SEQEND') groupsOf(scanner);
    const extrusionDirection = groups.some(([code]) => code === 210)
      ? { x: numberOf(groups, 210), y: numberOf(groups, 220), z: numberOf(groups, 230, 1) }
      : undefined;
    return {
      ...common('POLYLINE', groups), vertices, shape: (flags & 1) !== 0, is3dPolygonMesh: (flags & 16) !== 0, isPolyfaceMesh: (flags & 64) !== 0, extrusionDirection,
    } as unknown as IEntity; // prettier-ignore
  }
}

function vertexOf(groups: Groups): object {
  const flags = numberOf(groups, 70);
  const [faceA, faceB, faceC, faceD] = [71, 72, 73, 74].map((code) => numberOf(groups, code));
  return {
    x: numberOf(groups, 10), y: numberOf(groups, 20), z: numberOf(groups, 30), bulge: numberOf(groups, 42), splineControlPoint: (flags & 16) !== 0,
    faceA, faceB, faceC, faceD,
  }; // prettier-ignore
}

/** The parser, with these readers in the place of its own. */
export function dxfParser(): DxfParser {
  const parser = new DxfParser();
  for (const handler of [Face, LightPolyline, Polyline]) parser.registerEntityHandler(handler);
  return parser;
}
