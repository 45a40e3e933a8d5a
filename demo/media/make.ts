/**
 * Makes the pictures, recordings and documents that people of the demo send
 * each other; what it made is kept beside it. Needs the engine that sets pages,
 * and on this machine `pdftoppm`, `cwebp`, `heif-enc`, `ffmpeg` and
 * `opusenc`: run it only when a scene changes.
 */
import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { NodeCompiler } from '@myriaddreamin/typst-ts-node-compiler';
import { Random } from '../random';

const here = dirname(fileURLToPath(import.meta.url));
const made = join(here, 'made');
const work = mkdtempSync(join(tmpdir(), 'scenes-'));

function run(program: string, ...args: string[]): void {
  execFileSync(program, args, { stdio: ['ignore', 'ignore', 'inherit'] });
}

function fonts(): Buffer[] {
  const base = join(here, '../../node_modules/@record-fonts');
  return [
    'noto-sans/400Regular/NotoSans_400Regular.ttf',
    'noto-sans/700Bold/NotoSans_700Bold.ttf',
    'source-serif-4/400Regular/SourceSerif4_400Regular.ttf',
    'source-serif-4/700Bold/SourceSerif4_700Bold.ttf',
    'source-serif-4/400Regular_Italic/SourceSerif4_400Regular_Italic.ttf'
  ].map((path) => readFileSync(join(base, path)));
}

function pdf(name: string): string {
  const compiler = NodeCompiler.create({ workspace: here, fontArgs: [{ fontBlobs: fonts() }] });
  const compiled = compiler.compile({ mainFileContent: readFileSync(join(here, name), 'utf8') });
  if (!compiled.result)
    throw new Error(JSON.stringify(compiler.fetchDiagnostics(compiled.takeError()!)));
  const out = join(work, name.replace('.typ', '.pdf'));
  writeFileSync(out, compiler.pdf(compiled.result, { creationTimestamp: 1_763_110_800 }));
  return out;
}

/** Pages as pictures, 960 wide. */
function pages(): string[] {
  run('pdftoppm', '-r', '216', '-png', pdf('scenes.typ'), join(work, 'scene'));
  return readdirSync(work)
    .filter((name) => name.startsWith('scene-'))
    .sort()
    .map((name) => join(work, name));
}

/** Something like a person humming two short sentences: a voice's tone and its formants. */
function voice(path: string): void {
  const rate = 16_000;
  const random = new Random(12);
  const samples = new Int16Array(rate * 4);
  let phase = 0;
  const bands = [
    { at: 0, low: 0 },
    { at: 0, low: 0 }
  ];
  for (let i = 0; i < samples.length; i++) {
    const t = i / rate;
    const syllable = Math.max(0, Math.sin(t * Math.PI * 4.2)) * (t > 1.8 && t < 2.2 ? 0 : 1);
    phase += (118 + 22 * Math.sin(t * 3) - t * 4) / rate;
    const source = (phase % 1) - 0.5 + (random.next() - 0.5) * 0.06;
    let sum = 0;
    [520 + 200 * Math.sin(t * 7), 1500 + 500 * Math.sin(t * 5 + 1)].forEach((centre, n) => {
      const band = bands[n]!;
      const f = 2 * Math.sin((Math.PI * centre) / rate);
      band.low += f * band.at;
      band.at += f * (source - band.low - 0.14 * band.at);
      sum += band.at;
    });
    samples[i] = Math.max(-32_000, Math.min(32_000, sum * syllable * 9_000));
  }
  const raw = join(work, 'voice.raw');
  writeFileSync(raw, Buffer.from(samples.buffer));
  const wav = join(work, 'voice.wav');
  run(
    'ffmpeg',
    '-y',
    '-loglevel',
    'error',
    '-f',
    's16le',
    '-ar',
    String(rate),
    '-ac',
    '1',
    '-i',
    raw,
    wav
  );
  run('opusenc', '--quiet', '--bitrate', '20', '--serial', '7', wav, path);
}

const [morning, storm, hull, plan, slip, letter, gull] = pages();
const place = (name: string): string => join(made, name);
/** As a phone takes it: a little noise, and the grain of its compression. */
const jpeg = (from: string, name: string, noise: number): void =>
  run(
    'ffmpeg',
    ...['-y', '-loglevel', 'error', '-i', from, '-vf', `noise=alls=${noise}:all_seed=4`],
    ...['-fflags', '+bitexact', '-flags', '+bitexact', '-q:v', '7', place(name)]
  );
jpeg(morning!, 'harbour-morning.jpg', 3);
jpeg(storm!, 'quay-after-storm.jpg', 6);
jpeg(hull!, 'hull-on-slip.jpg', 8);
jpeg(slip!, 'slip.jpg', 5);
copyFileSync(plan!, place('hull-plan.png'));
run('heif-enc', '-q', '45', '-o', place('grant-letter.heic'), letter!);
run('cwebp', '-quiet', '-q', '60', '-resize', '640', '0', storm!, '-o', place('quay.webp'));
run('cwebp', '-quiet', '-q', '70', '-resize', '240', '0', gull!, '-o', place('gull.webp'));
run(
  'ffmpeg',
  ...['-y', '-loglevel', 'error', '-loop', '1', '-i', morning!],
  ...[
    '-vf',
    "scale=1280:960,zoompan=z='1+0.0025*on':x='on*1.6':d=1:s=480x360:fps=15,format=yuv420p"
  ],
  ...['-t', '4', '-c:v', 'libx264', '-profile:v', 'baseline', '-crf', '30', '-fflags', '+bitexact'],
  ...['-movflags', '+faststart', place('out-of-the-harbour.mp4')]
);
voice(place('voice-note.ogg'));
writeFileSync(place('quote.pdf'), readFileSync(pdf('quote.typ')));
rmSync(work, { recursive: true });
for (const name of readdirSync(made)) console.log(name, statSync(place(name)).size);
