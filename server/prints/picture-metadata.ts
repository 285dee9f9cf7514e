/** An all-round picture: the whole sphere, looking so many degrees clockwise of north in its middle. */
export interface RoundPicture {
  width: number;
  height: number;
  headingDeg: number;
}

/** Photo Sphere XMP Metadata, the published RDF schema; the names from memory, read back by exiftool in a test. */
const sphere = ({ width, height, headingDeg }: RoundPicture): string =>
  Object.entries({
    ProjectionType: 'equirectangular',
    UsePanoramaViewer: 'True',
    CroppedAreaImageWidthPixels: width,
    CroppedAreaImageHeightPixels: height,
    FullPanoWidthPixels: width,
    FullPanoHeightPixels: height,
    CroppedAreaLeftPixels: 0,
    CroppedAreaTopPixels: 0,
    PoseHeadingDegrees: headingDeg.toFixed(1),
    PosePitchDegrees: '0.0',
    PoseRollDegrees: '0.0',
  })
    .map(([name, value]) => `   <GPano:${name}>${String(value)}</GPano:${name}>\n`)
    .join('');

/** What a picture tells of itself, as an XMP packet (ISO 16684-1). */
export function xmp(metadata: Record<string, string>, round?: RoundPicture): string {
  const text = (value: string) =>
    value
      .replace(/&/g, '&amp;')
      .replace(/</g, '&lt;')
      .replace(/>/g, '&gt;')
      .replace(/"/g, '&quot;')
      .replace(/[\u0000-\u001f]/g, ' '); // eslint-disable-line no-control-regex
  const fields = Object.entries(metadata)
    .map(([key, value]) => `   <dp:${key}>${text(value)}</dp:${key}>`)
    .join('\n');
  return `<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>
<x:xmpmeta xmlns:x="adobe:ns:meta/">
 <rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">
  <rdf:Description rdf:about="" xmlns:dp="urn:diaphane:picture:1" xmlns:dc="http://purl.org/dc/elements/1.1/" xmlns:GPano="http://ns.google.com/photos/1.0/panorama/">
   <dc:description><rdf:Alt><rdf:li xml:lang="x-default">${text(
     Object.entries(metadata)
       .map(([k, value]) => `${k}: ${value}`)
       .join('; '),
   )}</rdf:li></rdf:Alt></dc:description>
${round ? sphere(round) : ''}${fields}
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
<?xpacket end="w"?>`;
}
