/** A tar file (ustar) of the given files; paths up to 255 characters. */
export function writeTar(files: Record<string, Uint8Array>, modifiedAt: number): Buffer {
  const parts: Buffer[] = [];
  for (const [path, bytes] of Object.entries(files)) {
    parts.push(header(path, bytes.length, modifiedAt), Buffer.from(bytes));
    parts.push(Buffer.alloc((512 - (bytes.length % 512)) % 512));
  }
  return Buffer.concat([...parts, Buffer.alloc(1024)]);
}

function header(path: string, size: number, modifiedAt: number): Buffer {
  const block = Buffer.alloc(512);
  const cut = path.length > 100 ? path.lastIndexOf('/', 155) : -1;
  block.write(path.slice(cut + 1), 0, 100);
  if (cut > 0) block.write(path.slice(0, cut), 345, 155);
  block.write('0000644\0', 100);
  block.write('0000000\0', 108);
  block.write('0000000\0', 116);
  block.write(`${size.toString(8).padStart(11, '0')}\0`, 124);
  block.write(
    `${Math.floor(modifiedAt / 1000)
      .toString(8)
      .padStart(11, '0')}\0`,
    136
  );
  block.write('        ', 148);
  block.write('0', 156);
  block.write('ustar\0' + '00', 257, 'latin1');
  const sum = block.reduce((total, byte) => total + byte, 0);
  block.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148);
  return block;
}
