import { writeFileSync } from 'node:fs';
import { execFileSync } from 'node:child_process';
import { writeDisk } from '../bench/writers/disk';
import { makeEvidence } from '../demo/evidence';
import { picture } from '../demo/more/pictures';
const t=Date.now();
const [phone] = await makeEvidence();
console.log('evidence ms', Date.now()-t, phone.bytes.length);
const d = writeDisk({ files: { 'data/a/x.db': phone.bytes, 'media/p.png': picture(3), 'media/q.png': picture(4) }, deleted: [picture(9)], modifiedAt: 1775000000000, blocks: 2048 });
writeFileSync('/tmp/st.img', d);
writeFileSync('/tmp/vol.img', d.subarray(2048*512));
try { console.log(execFileSync('e2fsck',['-fn','/tmp/vol.img']).toString()); } catch (e:any) { console.log(e.stdout.toString(), e.stderr.toString()); }
console.log(execFileSync('debugfs',['-R','ls -l /media','/tmp/vol.img']).toString());
