/** What a picture tells of itself, as an XMP packet (ISO 16684-1). */
export function xmp(metadata: Record<string, string>): string {
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
  <rdf:Description rdf:about="" xmlns:dp="urn:diaphane:picture:1" xmlns:dc="http://purl.org/dc/elements/1.1/">
   <dc:description><rdf:Alt><rdf:li xml:lang="x-default">${text(
     Object.entries(metadata)
       .map(([k, value]) => `${k}: ${value}`)
       .join('; '),
   )}</rdf:li></rdf:Alt></dc:description>
${fields}
  </rdf:Description>
 </rdf:RDF>
</x:xmpmeta>
<?xpacket end="w"?>`;
}
