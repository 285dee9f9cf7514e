import { readFileSync } from 'node:fs';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { describe, expect, it } from 'vitest';
import * as v from 'valibot';
import { validateXML } from 'xmllint-wasm';
import { remarkSchema, type Remark } from '../project/remark';
import { BCF_VERSIONS, readBcf, writeBcf } from './bcf';

const REMARKS: Remark[] = [
  { id: '0a1b2c3d-0000-4000-8000-000000000001', text: 'The bench is too low & <wide>\nPlease raise it.', author: 'Client', at: '2026-11-29T10:00:00.000Z', status: 'in work', camera: { position: [1, -8, 1.65], target: [1, 0, 1.65], focalMm: 28 }, place: [1, 2, 0.4], element: { source: 'house', id: '2O2Fr$t4X7Zf8NOew3FLOH' }, look: 'Dusk' },
  { id: 'remark-two', text: 'Sill', author: '', at: '2026-11-29T11:00:00.000Z', status: 'done', camera: { position: [0, -40, 3], target: [0, 0, 3], focalMm: 50, parallelM: 32 } },
]; // prettier-ignore

/** What XML Schema (libxml2) finds wrong with the files of a BCF, which are sorted by their names. */
async function faultsOf(version: string, files: Readonly<Record<string, Uint8Array>>): Promise<readonly string[]> {
  const xml = Object.entries(files)
    .filter(([name]) => !name.endsWith('.png'))
    .map(([fileName, contents]) => ({ fileName: fileName.replaceAll('/', '-'), contents: strFromU8(contents) }));
  const schema = readFileSync(`core/formats/testing/bcf-${version}.xsd`, 'utf8');
  return (await validateXML({ xml, schema: [schema] })).errors.map(({ rawMessage }) => rawMessage);
}

describe('remarks as BCF', () => {
  it.each(BCF_VERSIONS)('%s go out with camera, section, snapshot and element, as the schemas have it, and come back', async (version) => {
    const snapshot = new Uint8Array([0x89, 0x50, 0x4e, 0x47]);
    const bytes = writeBcf({
      version,
      project: 'Marram Landing',
      remarks: REMARKS,
      snapshots: new Map([[REMARKS[0]!.id, snapshot]]),
      sections: [{ name: 'A', cut: { kind: 'plane', normal: [0, 0, 2], offsetM: 2.2 } }],
    });
    const files = unzipSync(bytes);
    const folder = REMARKS[0]!.id;
    expect(Object.keys(files)).toEqual(expect.arrayContaining(['bcf.version', 'project.bcfp', `${folder}/markup.bcf`, `${folder}/viewpoint.bcfv`, `${folder}/snapshot.png`])); // prettier-ignore
    expect(strFromU8(files['bcf.version']!)).toContain(`VersionId="${version}"`);
    const info = strFromU8(files[`${folder}/viewpoint.bcfv`]!);
    expect(info).toContain('<Component IfcGuid="2O2Fr$t4X7Zf8NOew3FLOH"/>');
    expect(info).toContain('<Location><X>0</X><Y>0</Y><Z>1.1</Z></Location><Direction><X>0</X><Y>0</Y><Z>1</Z></Direction>');
    expect(info.includes('<AspectRatio>')).toBe(version === '3.0');
    const markup = strFromU8(files[`${folder}/markup.bcf`]!);
    expect(markup).toContain('&amp; &lt;wide&gt;');
    expect(await faultsOf(version, files)).toEqual([]);

    const back = readBcf(bytes) as Remark[];
    expect(back).toHaveLength(2);
    for (const remark of back) expect(v.is(remarkSchema, remark)).toBe(true);
    const [first, second] = back;
    expect(first).toMatchObject({
      id: folder,
      text: REMARKS[0]!.text,
      author: 'Client',
      status: 'in work',
      element: { id: '2O2Fr$t4X7Zf8NOew3FLOH' },
    });
    expect(first!.camera.focalMm).toBeCloseTo(28, 6);
    expect(first!.camera.target[1]).toBeCloseTo(-7);
    expect(second).toMatchObject({ text: 'Sill', status: 'done' });
    expect(second!.camera.parallelM).toBeCloseTo(32, 6);
  });

  it.each(BCF_VERSIONS)('%s bring back place, look and source, and a field of view that the version may not hold', (version) => {
    const remark: Remark = { ...REMARKS[0]!, look: 'Dusk', place: [1, 2.5, -3], element: { source: 'house', id: '2O2Fr$t4X7Zf8NOew3FLOH' }, camera: { ...REMARKS[0]!.camera, focalMm: 85 } }; // prettier-ignore
    const bytes = writeBcf({ version, project: 'p', remarks: [remark], snapshots: new Map(), sections: [] });
    const info = strFromU8(unzipSync(bytes)[`${remark.id}/viewpoint.bcfv`]!);
    const told = Number(/<FieldOfView>([\d.]+)</.exec(info)![1]);
    if (version === '2.1') expect(told).toBe(45);
    const [back] = readBcf(bytes) as Remark[];
    expect(back).toMatchObject({ look: 'Dusk', place: [1, 2.5, -3], element: remark.element });
    expect(back!.camera.focalMm).toBeCloseTo(85, 6);
  });

  it('that nest without end, or unpack to more than a topic says, are refused in a sentence, at once', () => {
    const zipped = (markup: string) => zipSync({ 'a/markup.bcf': strToU8(markup) });
    const began = Date.now();
    expect(readBcf(zipped(`<Markup>${'<a>'.repeat(200_000)}${'</a>'.repeat(200_000)}</Markup>`))).toMatch(
      /nests its elements|holds too much/,
    );
    expect(readBcf(zipped(`<Markup>${'<a>'.repeat(1000)}`))).toContain('nests its elements more than 60 deep');
    expect(readBcf(zipped(`<Markup>${'x'.repeat(5_000_000)}</Markup>`))).toContain('holds too much');
    expect(Date.now() - began).toBeLessThan(2000);
  });

  it.each(BCF_VERSIONS)('%s are checked by schemas that find what is missing, misplaced or misspelt', async (version) => {
    const files = unzipSync(writeBcf({ version, project: 'p', remarks: REMARKS.slice(0, 1), snapshots: new Map(), sections: [] }));
    const markup = `${REMARKS[0]!.id}/markup.bcf`;
    const spoilt = (from: string | RegExp, to: string) => ({ ...files, [markup]: strToU8(strFromU8(files[markup]!).replace(from, to)) });
    expect(await faultsOf(version, files)).toEqual([]);
    for (const [from, to] of [
      [/<Title>.*?<\/Title>/s, ''],
      [/(<CreationDate>.*?<\/CreationDate>)(<CreationAuthor>.*?<\/CreationAuthor>)/, '$2$1'],
      ['<CreationAuthor>', '<Creator>'],
      [/<Date>.*?<\/Date>/, '<Date>yesterday</Date>'],
      [/Guid="/, 'Guid="x'],
    ] as const)
      expect(await faultsOf(version, spoilt(from, to))).not.toEqual([]);
  });

  it('of bad files of every kind are refused in a sentence, and nothing throws', () => {
    expect(readBcf(new Uint8Array([1, 2, 3]))).toBe('This file is no zip, as BCF is.');
    expect(readBcf(zipSync({ 'a.txt': new Uint8Array([65]) }))).toContain('no topics');
    const broken = new TextEncoder().encode('<Markup><Topic Guid="no"><Title>x');
    expect(readBcf(zipSync({ 'x/markup.bcf': broken }))).toContain('no topics');
    const good = unzipSync(writeBcf({ version: '3.0', project: 'p', remarks: REMARKS, snapshots: new Map(), sections: [] }));
    for (let i = 0; i < 60; i++) {
      const cut = Object.fromEntries(Object.entries(good).map(([name, file]) => [name, file.slice(0, (file.length * i) / 60)]));
      expect(() => readBcf(zipSync(cut))).not.toThrow();
    }
  });
});
