import {
  PDFDict,
  PDFDocument,
  PDFName,
  PDFRawStream,
  PDFRef,
  PDFString,
  decodePDFRawStream
} from '@cantoo/pdf-lib';
import { srgbProfile } from './srgb';

/**
 * A document of the engine as PDF/A-3b (ISO 19005-3): with the colours that it
 * means, the files that go along named by the catalogue, and the mark of the
 * standard. The engine embeds all fonts and uses nothing that the standard
 * forbids; where it runs natively it writes the same by itself.
 */
export async function archivalCopy(pdf: Uint8Array): Promise<Uint8Array> {
  const document = await PDFDocument.load(pdf, { updateMetadata: false });
  const { catalog, context } = document;
  const files = context
    .enumerateIndirectObjects()
    .filter(([, object]) => object instanceof PDFDict && isNamed(object, 'Filespec'))
    .map(([ref]) => ref);
  if (files.length > 0) catalog.set(PDFName.of('AF'), context.obj(files));
  catalog.set(PDFName.of('OutputIntents'), context.obj([outputIntent(document)]));
  catalog.set(PDFName.of('Metadata'), context.register(markedMetadata(document)));
  return document.save({ useObjectStreams: true, updateFieldAppearances: false });
}

function isNamed(object: PDFDict, type: string): boolean {
  return object.get(PDFName.of('Type')) === PDFName.of(type);
}

function outputIntent({ context }: PDFDocument): PDFRef {
  const profile = context.flateStream(srgbProfile(), { N: 3, Range: [0, 1, 0, 1, 0, 1] });
  return context.register(
    context.obj({
      Type: 'OutputIntent',
      S: 'GTS_PDFA1',
      OutputConditionIdentifier: PDFString.of('Custom'),
      OutputCondition: PDFString.of('sRGB'),
      RegistryName: PDFString.of(''),
      Info: PDFString.of('sRGB v4.2'),
      DestOutputProfile: context.register(profile)
    })
  );
}

/** The document's metadata with what the standard asks for (6.6.2.3 and 6.6.4); never compressed. */
function markedMetadata({ catalog, context }: PDFDocument): PDFRawStream {
  const stream = context.lookup(catalog.get(PDFName.of('Metadata')));
  if (!(stream instanceof PDFRawStream)) throw new Error('The document has no metadata.');
  const text = new TextDecoder().decode(decodePDFRawStream(stream).decode());
  const marked = text
    .replace('<rdf:Description rdf:about=""', `<rdf:Description rdf:about=""${NAMESPACES}`)
    .replace('</rdf:Description>', `${schemas()}${MARK}</rdf:Description>`);
  return context.stream(new TextEncoder().encode(marked), { Type: 'Metadata', Subtype: 'XML' });
}

const MARK = '<pdfaid:part>3</pdfaid:part><pdfaid:conformance>B</pdfaid:conformance>';

const NAMESPACES = [
  ['pdfaid', 'http://www.aiim.org/pdfa/ns/id/'],
  ['pdfaExtension', 'http://www.aiim.org/pdfa/ns/extension/'],
  ['pdfaSchema', 'http://www.aiim.org/pdfa/ns/schema#'],
  ['pdfaProperty', 'http://www.aiim.org/pdfa/ns/property#']
]
  .map(([prefix, uri]) => ` xmlns:${prefix}="${uri}"`)
  .join('');

/** Properties that the engine writes and the standard does not know must be described. */
const DESCRIBED = [
  {
    schema: 'XMP Media Management schema',
    uri: 'http://ns.adobe.com/xap/1.0/mm/',
    prefix: 'xmpMM',
    properties: [
      ['InstanceID', 'internal', 'UUID based identifier for specific incarnation of a document']
    ]
  },
  {
    schema: 'Adobe PDF schema',
    uri: 'http://ns.adobe.com/pdf/1.3/',
    prefix: 'pdf',
    properties: [
      ['Keywords', 'external', 'Keywords associated with the document'],
      ['PDFVersion', 'internal', 'Version of the PDF specification to which the document conforms'],
      ['Producer', 'internal', 'Name of the application that created the PDF document'],
      ['Trapped', 'internal', 'Whether the document has been trapped']
    ]
  }
] as const;

const ITEM = '<rdf:li rdf:parseType="Resource">';

function schemas(): string {
  const items = DESCRIBED.map(({ schema, uri, prefix, properties }) => {
    const described = properties.map(
      ([name, category, description]) =>
        `${ITEM}<pdfaProperty:category>${category}</pdfaProperty:category><pdfaProperty:description>${description}</pdfaProperty:description><pdfaProperty:name>${name}</pdfaProperty:name><pdfaProperty:valueType>Text</pdfaProperty:valueType></rdf:li>`
    );
    return `${ITEM}<pdfaSchema:schema>${schema}</pdfaSchema:schema><pdfaSchema:namespaceURI>${uri}</pdfaSchema:namespaceURI><pdfaSchema:prefix>${prefix}</pdfaSchema:prefix><pdfaSchema:property><rdf:Seq>${described.join('')}</rdf:Seq></pdfaSchema:property></rdf:li>`;
  });
  return `<pdfaExtension:schemas><rdf:Bag>${items.join('')}</rdf:Bag></pdfaExtension:schemas>`;
}
