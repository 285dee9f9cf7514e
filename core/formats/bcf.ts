import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { DOMParser } from 'linkedom';
import { verticalFovRad } from '../camera/camera';
import { add, cross, normalise, subtract, type Vec3 } from '../geometry/vec3';
import type { Camera } from '../model/schema';
import type { Remark } from '../project/remark';
import { planesOf, type Section } from '../project/sections';

/**
 * Remarks as topics of the BIM Collaboration Format, 2.1 and 3.0 (buildingSMART): a zip with a folder for each topic that holds its markup,
 * the viewpoint and a snapshot. Metres, z upwards, as there.
 */

export const BCF_VERSIONS = ['2.1', '3.0'] as const;
export type BcfVersion = (typeof BCF_VERSIONS)[number];

export interface BcfToWrite {
  version: BcfVersion;
  project: string;
  remarks: readonly Remark[];
  /** PNG, by the remarks' ids. */
  snapshots: ReadonlyMap<string, Uint8Array>;
  /** That cut what the remarks are of. */
  sections: readonly Section[];
}

const ASPECT = 16 / 9;
const STATUS_WORDS: Readonly<Record<Remark['status'], string>> = { open: 'Open', 'in work': 'In Progress', done: 'Closed' };
const GUID = /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i;
/** An id of IFC: 22 digits of base 64. */
const IFC_GUID = /^[0-9A-Za-z_$]{22}$/;
const MOST_TOPICS = 5000;
/** Of all markup and views together, unpacked; and of one of them. */
const MOST_BYTES = 40e6;
const MOST_FILE_BYTES = 2e6;
const MOST_DEEP = 60;
/** What BCF 2.1 lets a field of view be. */
const [LEAST_FOV_DEG, MOST_FOV_DEG] = [45, 60];
const fovDeg = (focalMm: number): number => (verticalFovRad(focalMm, ASPECT) * 180) / Math.PI;

const HEAD = '<?xml version="1.0" encoding="UTF-8"?>\n';
const escaped = (text: string): string =>
  text.replace(/[^\P{Cc}\n\t]/gu, " ").replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;'); // prettier-ignore
const tag = (name: string, text: string): string => `<${name}>${escaped(text)}</${name}>`;
const xyz = (name: string, v: Vec3): string => `<${name}><X>${String(v[0])}</X><Y>${String(v[1])}</Y><Z>${String(v[2])}</Z></${name}>`;

/** Ids of ours that are none of BCF's become one, always the same. */
function guidOf(id: string): string {
  if (GUID.test(id)) return id.toLowerCase();
  let hex = '';
  for (let k = 0; hex.length < 32; k++) {
    let hash = 2166136261 ^ k;
    for (let i = 0; i < id.length; i++) hash = Math.imul(hash ^ id.charCodeAt(i), 16777619);
    hex += (hash >>> 0).toString(16).padStart(8, '0');
  }
  return [hex.slice(0, 8), hex.slice(8, 12), hex.slice(12, 16), hex.slice(16, 20), hex.slice(20, 32)].join('-');
}

export function writeBcf({ version, project, remarks, snapshots, sections }: BcfToWrite): Uint8Array<ArrayBuffer> {
  const is3 = version === '3.0';
  const files: Record<string, Uint8Array> = {
    'bcf.version': strToU8(is3 ? `${HEAD}<Version VersionId="3.0"/>` : `${HEAD}<Version VersionId="2.1"><DetailedVersion>2.1</DetailedVersion></Version>`),
  };
  const projectLine = `<Project ProjectId="${guidOf(project)}">${tag('Name', project)}</Project>`;
  files['project.bcfp'] = strToU8(is3 ? `${HEAD}<ProjectInfo>${projectLine}</ProjectInfo>` : `${HEAD}<ProjectExtension>${projectLine}<ExtensionSchema/></ProjectExtension>`);
  if (is3) files['extensions.xml'] = strToU8(`${HEAD}<Extensions><TopicTypes><TopicType>Remark</TopicType></TopicTypes><TopicStatuses>${Object.values(STATUS_WORDS).map((status) => tag('TopicStatus', status)).join('')}</TopicStatuses></Extensions>`);
  for (const remark of remarks) {
    const guid = guidOf(remark.id);
    const view = guidOf(`${remark.id} view`);
    const snapshot = snapshots.get(remark.id);
    const author = remark.author || 'unknown';
    const comment = `<Comment Guid="${guidOf(`${remark.id} text`)}">${tag('Date', remark.at)}${tag('Author', author)}${tag('Comment', remark.text)}<Viewpoint Guid="${view}"/></Comment>`;
    const shown = `<Viewpoint>viewpoint.bcfv</Viewpoint>${snapshot ? '<Snapshot>snapshot.png</Snapshot>' : ''}`;
    const topic = [
      tag('Title', remark.text.split('\n')[0]!.slice(0, 120)),
      tag('CreationDate', remark.at),
      tag('CreationAuthor', author),
      ...describedOf(remark, is3),
    ].join('');
    const inside = is3
      ? `<Topic Guid="${guid}" TopicType="Remark" TopicStatus="${STATUS_WORDS[remark.status]}">${topic}<Comments>${comment}</Comments><Viewpoints><ViewPoint Guid="${view}">${shown}</ViewPoint></Viewpoints></Topic>`
      : `<Topic Guid="${guid}" TopicType="Remark" TopicStatus="${STATUS_WORDS[remark.status]}">${topic}</Topic>${comment}<Viewpoints Guid="${view}">${shown}</Viewpoints>`;
    files[`${guid}/markup.bcf`] = strToU8(`${HEAD}<Markup>${inside}</Markup>`);
    files[`${guid}/viewpoint.bcfv`] = strToU8(`${HEAD}<VisualizationInfo Guid="${view}">${visualization(remark, sections, is3)}</VisualizationInfo>`);
    if (snapshot) files[`${guid}/snapshot.png`] = snapshot;
  }
  return zipSync(files, { level: 6 });
} // prettier-ignore

function visualization({ camera, element }: Remark, sections: readonly Section[], is3: boolean): string {
  const selected = element && IFC_GUID.test(element.id) ? `<Selection><Component IfcGuid="${element.id}"/></Selection>` : '';
  const components = `<Components>${selected}<Visibility DefaultVisibility="true"/></Components>`;
  const planes = sections.flatMap(planesOf).map(({ normal, offsetM }) => {
    const at: Vec3 = [normal[0] * offsetM, normal[1] * offsetM, normal[2] * offsetM];
    return `<ClippingPlane>${xyz('Location', at)}${xyz('Direction', normal)}</ClippingPlane>`;
  });
  return `${components}${cameraOf(camera, is3)}${planes.length > 0 ? `<ClippingPlanes>${planes.join('')}</ClippingPlanes>` : ''}`;
}

function cameraOf({ position, target, focalMm, parallelM }: Camera, is3: boolean): string {
  const direction = normalise(subtract(target, position));
  const right = normalise(cross(direction, Math.abs(direction[2]) > 0.999 ? [0, 1, 0] : [0, 0, 1]));
  const place = `${xyz('CameraViewPoint', position)}${xyz('CameraDirection', direction)}${xyz('CameraUpVector', cross(right, direction))}`;
  const aspect = is3 ? `<AspectRatio>${String(ASPECT)}</AspectRatio>` : '';
  if (parallelM !== undefined)
    return `<OrthogonalCamera>${place}<ViewToWorldScale>${String(parallelM / ASPECT)}</ViewToWorldScale>${aspect}</OrthogonalCamera>`;
  const deg = fovDeg(focalMm);
  const told = is3 ? deg : Math.min(MOST_FOV_DEG, Math.max(LEAST_FOV_DEG, deg));
  return `<PerspectiveCamera>${place}<FieldOfView>${String(told)}</FieldOfView>${aspect}</PerspectiveCamera>`;
}

/** What the format has no place for, as lines that a person reads and that are read back here. */
function describedOf({ look, place, element, camera: { focalMm, parallelM } }: Remark, is3: boolean): string[] {
  const isHeld = !is3 && parallelM === undefined && (fovDeg(focalMm) < LEAST_FOV_DEG || fovDeg(focalMm) > MOST_FOV_DEG);
  const lines = [
    ...(look ? [`Seen under: ${look}`] : []),
    ...(place ? [`Place: ${place.join(' ')}`] : []),
    ...(element?.source ? [`Source: ${element.source}`] : []),
    ...(isHeld ? [`Lens: ${String(focalMm)} mm (a field of view beyond the 45 to 60 degrees of BCF 2.1)`] : []),
  ];
  return lines.length > 0 ? [tag('Description', lines.join('\n'))] : [];
}

/** What a parser gives of an element; kept as small as it is used. */
interface Node {
  querySelector(selector: string): Node | null;
  querySelectorAll(selector: string): Iterable<Node>;
  getAttribute(name: string): string | null;
  readonly textContent: string | null;
}

/** Reads the topics of either version. A sentence: the file is none. */
export function readBcf(bytes: Uint8Array): Remark[] | string {
  let files: Record<string, Uint8Array>;
  let size = 0;
  try {
    files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (!/\.(bcf|bcfv)$/.test(name)) return false;
        size += originalSize;
        if (originalSize > MOST_FILE_BYTES || size > MOST_BYTES)
          throw new TooLarge(`${name} holds too much: one topic up to 2 MB, all together up to 40 MB are read.`);
        return true;
      },
    });
  } catch (error) {
    return error instanceof TooLarge ? error.message : 'This file is no zip, as BCF is.';
  }
  const remarks: Remark[] = [];
  for (const [name, file] of Object.entries(files)) {
    if (!name.endsWith('markup.bcf') || remarks.length >= MOST_TOPICS) continue;
    const folder = name.slice(0, -'markup.bcf'.length);
    if ([file, ...Object.entries(files).flatMap(([other, view]) => (other.startsWith(folder) ? [view] : []))].some(isTooDeep))
      return `${name} nests its elements more than ${String(MOST_DEEP)} deep.`;
    const remark = remarkOf(parsed(file), (view) => {
      const found = files[folder + view];
      return found && parsed(found);
    });
    if (remark) remarks.push(remark);
  }
  return remarks.length > 0 ? remarks : 'This file has no topics that could be read.';
}

class TooLarge extends Error {}

/** Looked at before it is parsed: a parser goes as deep as a file does. */
function isTooDeep(file: Uint8Array): boolean {
  let deep = 0;
  for (let i = 0; i + 1 < file.length; i++) {
    if (file[i] === 0x3e && file[i - 1] === 0x2f) deep--;
    if (file[i] !== 0x3c) continue;
    const next = file[i + 1];
    if (next === 0x2f) deep--;
    else if (next !== 0x21 && next !== 0x3f && ++deep > MOST_DEEP) return true;
  }
  return false;
}

const parsed = (file: Uint8Array): Node => new DOMParser().parseFromString(strFromU8(file), 'text/xml') as unknown as Node;
const textOf = (node: Node | null, selector: string): string => node?.querySelector(selector)?.textContent?.trim() ?? '';

function remarkOf(markup: Node, viewOf: (name: string) => Node | undefined): Remark | undefined {
  const topic = markup.querySelector('Topic');
  const id = topic?.getAttribute('Guid') ?? '';
  if (!topic || !GUID.test(id)) return undefined;
  const said = [...markup.querySelectorAll('Comment > Comment')].map((node) => node.textContent?.trim() ?? '').filter(Boolean);
  const text = said.length > 0 ? said.join('\n\n') : textOf(topic, 'Title');
  const info = viewOf(textOf(markup, 'Viewpoints Viewpoint') || 'viewpoint.bcfv') ?? viewOf('viewpoint.bcfv');
  const described = textOf(topic, 'Description');
  const lineOf = (name: string) => new RegExp(`^${name}: (.*)$`, 'm').exec(described)?.[1]?.trim();
  const lens = Number(/^([\d.]+) mm/.exec(lineOf('Lens') ?? '')?.[1]);
  const seen = info && cameraIn(info);
  const camera = seen && lens >= 5 && lens <= 500 ? { ...seen, focalMm: lens } : seen;
  const look = lineOf('Seen under')?.slice(0, 200);
  const place = (lineOf('Place') ?? '').split(' ').map(Number);
  if (!text || !info || !camera) return undefined;
  const at = textOf(topic, 'CreationDate');
  const selected = info.querySelector('Selection Component')?.getAttribute('IfcGuid');
  const told = topic.getAttribute('TopicStatus') ?? '';
  const status = /clos|done|resolv/i.test(told) ? 'done' : /progress|work|assign/i.test(told) ? 'in work' : 'open';
  return {
    id: id.toLowerCase(),
    text: text.slice(0, 4000),
    author: textOf(topic, 'CreationAuthor').slice(0, 200),
    at: Number.isNaN(Date.parse(at)) ? new Date(0).toISOString() : new Date(at).toISOString(),
    status,
    camera,
    ...(look && { look }),
    ...(place.length === 3 && place.every((v) => Math.abs(v) <= 1e6) && { place: place as [number, number, number] }),
    ...(selected && { element: { source: (lineOf('Source') ?? '').slice(0, 200), id: selected } }),
  };
}

function cameraIn(info: Node): Camera | undefined {
  const camera = info.querySelector('PerspectiveCamera') ?? info.querySelector('OrthogonalCamera');
  if (!camera) return undefined;
  const vector = (name: string): Vec3 => [0, 1, 2].map((k) => Number(textOf(camera, `${name} ${'XYZ'[k]!}`) || NaN)) as unknown as Vec3;
  const [position, direction] = [vector('CameraViewPoint'), vector('CameraDirection')];
  if (![...position, ...direction].every(Number.isFinite) || Math.hypot(...direction) < 1e-9) return undefined;
  const target = add(position, normalise(direction));
  const fov = Number(textOf(camera, 'FieldOfView')) || 45;
  const scale = Number(textOf(camera, 'ViewToWorldScale'));
  const aspect = Number(textOf(camera, 'AspectRatio')) || ASPECT;
  // Told of the height; ours is of the width, 36 mm.
  const focalMm = Math.min(500, Math.max(5, 18 / (Math.tan((fov * Math.PI) / 360) * aspect)));
  return { position: [...position], target: [...target], focalMm, ...(scale > 0 && { parallelM: scale * aspect }) };
}
