import { crc32, deflateSync } from 'node:zlib';
import { Random } from '../random';

const WIDTH = 240;
const HEIGHT = 180;

/** A small picture of the harbour, different for each seed: sky, hills, water and a boat. */
export function picture(seed: number): Buffer {
  const random = new Random(seed);
  const hue = random.next();
  const horizon = 70 + Math.floor(random.next() * 40);
  const boat = 50 + Math.floor(random.next() * 120);
  const rows = Buffer.alloc((WIDTH * 3 + 1) * HEIGHT);
  for (let y = 0; y < HEIGHT; y++) {
    for (let x = 0; x < WIDTH; x++) {
      const at = y * (WIDTH * 3 + 1) + 1 + x * 3;
      const colour = colourAt(x, y, horizon, boat, hue);
      rows[at] = colour[0];
      rows[at + 1] = colour[1];
      rows[at + 2] = colour[2];
    }
  }
  return png(rows);
}

function colourAt(
  x: number,
  y: number,
  horizon: number,
  boat: number,
  hue: number
): [number, number, number] {
  const hill = horizon - 18 - Math.round(12 * Math.sin(x / 27 + hue * 6) + 6 * Math.sin(x / 9));
  const inHull =
    y > horizon + 24 && y < horizon + 36 && Math.abs(x - boat) < 34 - (y - horizon - 24);
  const inSail =
    y > horizon - 20 && y <= horizon + 22 && x > boat && x - boat < (y - horizon + 20) / 1.6;
  if (inHull) return [122, 60, 44];
  if (inSail) return [236, 230, 214];
  if (y > horizon) {
    const ripple = Math.sin(y * 1.7 + x / 11) > 0.6 ? 14 : 0;
    return [60 + ripple, 96 + ripple, 112 + ripple + Math.round(20 * hue)];
  }
  if (y > hill) return [84, 106, 92];
  return [206 - y, 214 - Math.round(y / 2), 222 - Math.round(hue * 30)];
}

function png(rows: Buffer): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(WIDTH, 0);
  head.writeUInt32BE(HEIGHT, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from('89504e470d0a1a0a', 'hex'),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(rows)),
    chunk('IEND', Buffer.alloc(0))
  ]);
}

function chunk(type: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(type), data]);
  const out = Buffer.alloc(body.length + 8);
  out.writeUInt32BE(data.length, 0);
  body.copy(out, 4);
  out.writeUInt32BE(crc32(body), body.length + 4);
  return out;
}
