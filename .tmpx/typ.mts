import { NodeCompiler } from '@myriaddreamin/typst-ts-node-compiler';
import { writeFileSync } from 'node:fs';
const c = NodeCompiler.create({ workspace: '/tmp/typw', fontArgs: [{ fontPaths: ['node_modules/@expo-google-fonts/noto-sans/400Regular', 'node_modules/@expo-google-fonts/source-serif-4/400Regular'] }] });
c.mapShadow('/tmp/typw/data.json', Buffer.from(JSON.stringify({ a: 'x' })));
const main = `#sys.version
#set text(font: "Source Serif 4")
#let d = json("/data.json")
Hello #d.a #metadata(3)<ln>
#pdf.attach("/data.json", description: "d")
#pagebreak() Two #metadata(4)<ln>
#context [#metadata(query(<ln>).map(m => (m.value, m.location().page())))<pages>]`;
const doc = c.compile({ mainFileContent: main });
doc.printDiagnostics();
console.log(doc.result?.numOfPages, JSON.stringify(c.query(doc.result!, { selector: '<pages>', field: 'value' })));
const pdf = c.pdf(doc.result!, { pdfStandard: 'a-3b', creationTimestamp: 1 });
writeFileSync('/tmp/t.pdf', pdf);
