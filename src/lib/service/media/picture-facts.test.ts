import assert from 'node:assert/strict';
import { test } from 'node:test';
import { factsOfPicture } from './picture-facts';

/** An entry of a directory: its tag, type and count, and its value or where that lies. */
type Entry = [tag: number, type: number, count: number, value: number];

/** A picture file that holds nothing but what a camera wrote (CIPA DC-008, TIFF in little-endian order). */
function withCamera(): Uint8Array {
  const tiff = new Uint8Array(400);
  const view = new DataView(tiff.buffer);
  const text = (at: number, value: string): void =>
    [...`${value}\0`].forEach((letter, i) => (tiff[at + i] = letter.charCodeAt(0)));
  const directory = (at: number, entries: Entry[]): void => {
    view.setUint16(at, entries.length, true);
    entries.forEach(([tag, type, count, value], i) => {
      const own = at + 2 + i * 12;
      view.setUint16(own, tag, true);
      view.setUint16(own + 2, type, true);
      view.setUint32(own + 4, count, true);
      view.setUint32(own + 8, value, true);
    });
  };
  const rationals = (at: number, values: number[]): void =>
    values.forEach((value, i) => {
      view.setUint32(at + i * 8, Math.round(value * 100), true);
      view.setUint32(at + i * 8 + 4, 100, true);
    });
  text(0, 'II*');
  view.setUint16(2, 42, true);
  view.setUint32(4, 8, true);
  directory(8, [
    [0x10f, 2, 9, 200],
    [0x110, 2, 7, 212],
    [0x8769, 4, 1, 80],
    [0x8825, 4, 1, 110]
  ]);
  directory(80, [[0x9003, 2, 20, 222]]);
  directory(110, [
    [1, 2, 2, 'N'.charCodeAt(0)],
    [2, 5, 3, 250],
    [3, 2, 2, 'W'.charCodeAt(0)],
    [4, 5, 3, 280]
  ]);
  text(200, 'Lanterna');
  text(212, 'Gull 3');
  text(222, '2026:03:12 08:55:12');
  rationals(250, [59, 54, 36]);
  rationals(280, [10, 45, 0]);
  const head = [0xff, 0xd8, 0xff, 0xe1, 0, 0, 0x45, 0x78, 0x69, 0x66, 0, 0];
  const length = tiff.length + 8;
  [head[4], head[5]] = [length >> 8, length & 255];
  return Uint8Array.from([...head, ...tiff, 0xff, 0xd9]);
}

test('camera, time and place are read as the camera wrote them', async () => {
  const facts = await factsOfPicture(withCamera());
  assert.equal(facts?.camera, 'Lanterna Gull 3');
  assert.equal(facts.takenAt, '2026-03-12 08:55:12');
  assert.ok(Math.abs(facts.place!.lat - 59.91) < 0.001, `${facts.place!.lat}`);
  assert.ok(Math.abs(facts.place!.lon + 10.75) < 0.001, `${facts.place!.lon}`);
});

test('other files say nothing, and are no error', async () => {
  for (const bytes of [new Uint8Array(0), new Uint8Array(50), withCamera().slice(0, 30)]) {
    const facts = await factsOfPicture(bytes);
    assert.ok(facts === null || facts.place === null);
  }
});
